"""nodes_in_browser.py PAGE PLACE…: opens a page of a worked example at places in headless Chromium, and
prints as JSON what the drawing of the graph shows at each: its texts, and how many edges are marked.
"""
import json
import sys
import tempfile

from browser import start

SEEN = """
return {said: document.querySelector("#why h2").firstChild.textContent,
        note: [...document.querySelectorAll("#why p")].map(each => each.textContent).join(" "),
        texts: [...document.querySelectorAll("#why .graph text")].map(each => each.textContent),
        taken: document.querySelectorAll("#why .graph .taken").length,
        legend: [...document.querySelectorAll("#why .legend")].map(each => each.textContent).join(" "),
        dots: [...document.querySelectorAll("number-table td")].filter(each => each.textContent === "·").length,
        hollow: [...document.querySelectorAll("#why .graph .node")].filter(each => !each.style.fill).length,
        nodes: document.querySelectorAll("#why .graph .node").length,
        counts: document.querySelectorAll("#why .graph .counts").length}
"""

with tempfile.TemporaryDirectory() as folder:
    browser = start(folder)
    try:
        seen = []
        for place in sys.argv[2:]:
            browser.get("about:blank")
            browser.get(f"file://{sys.argv[1]}#{place}")
            seen.append(browser.execute_script(SEEN))
        console = [entry["message"] for entry in browser.get_log("browser")]
        json.dump({"seen": seen, "console": console}, sys.stdout)
    finally:
        browser.quit()
