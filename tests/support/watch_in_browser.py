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
            time.sleep(0.3)  # curves are drawn with the next picture
            wrong = browser.execute_script("""return [...document.querySelectorAll("#wrong figure")].map(
              figure => [figure.textContent, figure.querySelector("canvas").width])""")
            nodes = browser.execute_script("""return [...document.querySelectorAll("#nodes:not([hidden]) h2")].map(
              heading => heading.textContent)""")
            json.dump({"state": state, "wrong": wrong, "nodes": nodes, "curves": browser.execute_script(CURVES),
                       "console": [entry["message"] for entry in browser.get_log("browser")]},
                      sys.stdout)
        finally:
            browser.quit()
    run.send_signal(signal.SIGINT)
    run.wait(timeout=30)


main()
