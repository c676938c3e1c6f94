"""change_page.py PAGE CASES: opens a page of a worked example in headless Chromium with changes in its address, and
prints what came of them as JSON. CASES is a JSON file with a list of {"changes": [[step, number, value], ...],
"taken": steps taken on the page}. Of each case every number of every step is printed, by table; what a rule remembers
or works out stands under "name of weight". Also how many changes were taken, how long it took, and what is said.
"""
import json
import sys
import tempfile
from urllib.parse import quote

from browser import start

SEEN = """
const steps = {};
data.steps.forEach((step, at) => {
  const tables = {};
  step.tables.forEach((table, each) => {
    const isOfWeight = ["remembered", "worked out"].includes(table.kind) && table.line > 0;
    const name = isOfWeight ? `${table.name} of ${step.tables[table.line - 1].name}` : table.name;
    tables[name] = [...stepNumbers[at].now(each)].map(each => Number.isFinite(each) ? each : String(each));
  });
  steps[step.step] = tables;
});
return {changes: changes.size, milliseconds: lastWorking, steps, after: data.steps.map((_, at) => {
  shown.minibatch = at;
  return resultSpot() && minibatch().rule ? resultAfter() : null;
}), said: document.getElementById("changes").innerText};
"""


def main():
    page = sys.argv[1]
    with open(sys.argv[2]) as file:
        cases = json.load(file)
    with tempfile.TemporaryDirectory() as folder:
        browser = start(folder)
        try:
            seen = []
            for case in cases:
                parts = [quote(f"{step or 'answer 1'}:{number}={value!r}", safe="") for step, number, value in case["changes"]]
                if case.get("taken"):
                    parts.append(quote(f"+{case['taken']}", safe=""))
                browser.get("about:blank")
                browser.get(f"file://{page}#{';'.join(['', *parts])}")
                seen.append(browser.execute_script(SEEN))
            json.dump({"cases": seen, "console": [each["message"] for each in browser.get_log("browser")]}, sys.stdout)
        finally:
            browser.quit()


main()
