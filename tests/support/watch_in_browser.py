"""watch_in_browser.py COMMAND…: starts a training run that is served on a free port, opens its page in
headless Chromium, and prints as JSON what stands there when the run is over.
"""
import json
import re
import signal
import subprocess
import sys
import tempfile
import time

from browser import CURVES, start


def main():
    run = subprocess.Popen(sys.argv[1:], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
    said = ""
    while "stays up" not in said:
        line = run.stderr.readline()
        if not line:
            sys.exit(f"no page: {said}")
        said += line
    url = re.search(r"http://127\.0\.0\.1:\d+/", said).group(0)
    with tempfile.TemporaryDirectory() as folder:
        browser = start(folder)
        try:
            browser.get(url)
            state = ""
            end = time.time() + 30
            while "ended" not in state and time.time() < end:
                time.sleep(0.05)
                state = browser.execute_script("return document.getElementById('state').textContent")
            # What is drawn of the weights comes last, where there is anything to draw of them.
            end = time.time() + 3
            while time.time() < end and not browser.execute_script(
                    "return document.querySelector('#confusion:not([hidden]), #nodes:not([hidden])')"):
                time.sleep(0.05)
            time.sleep(0.3)  # curves are drawn with the next picture
            wrong = browser.execute_script("""return [...document.querySelectorAll("#wrong figure")].map(
              figure => [figure.textContent, figure.querySelector("canvas").width])""")
            nodes = browser.execute_script("""return [...document.querySelectorAll("#nodes:not([hidden]) h2")].map(
              heading => heading.textContent)""")
            confusion = browser.execute_script("""const box = document.getElementById("confusion");
              return {title: box.querySelector("h2").textContent, counts: [...box.querySelectorAll("tr")].slice(1).map(
                line => [...line.querySelectorAll("td")].map(cell => Number(cell.textContent)))}""")
            network = browser.execute_script("""const box = document.getElementById("network");
              return {title: box.querySelector("h2").textContent, cells: box.querySelectorAll(".cell").length,
                      heads: [...box.querySelectorAll(".head")].map(head => head.textContent)}""")
            regions = browser.execute_script("return document.querySelector('#regions h2').textContent")
            json.dump({"state": state, "wrong": wrong, "nodes": nodes, "network": network, "confusion": confusion,
                       "regions": regions, "curves": browser.execute_script(CURVES),
                       "console": [entry["message"] for entry in browser.get_log("browser")]},
                      sys.stdout)
        finally:
            browser.quit()
    run.send_signal(signal.SIGINT)
    run.wait(timeout=30)


main()
