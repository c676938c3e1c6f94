"""drive_page.py PAGE ANSWERS [NUMBERS]: uses a page of a worked example in headless Chromium as a student would, and
prints what was seen as JSON: every table at every line, the answers to questions, an exercise
filled in, what is printed, and whatever went wrong or left the page. ANSWERS is a JSON list of what
to type into the blanks. With NUMBERS, a JSON file, the page writes these, and nothing else is done.
"""
import base64
import json
import subprocess
import sys
import tempfile

from browser import CURVES, start
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


def press(browser, *keys):
    browser.switch_to.active_element.send_keys(*keys)


TABLES = """
[...document.querySelectorAll('#desk number-table')].map(table => ({
  name: table.querySelector('caption b').textContent,
  cells: [...table.querySelectorAll('td')].map(cell =>
    cell.querySelector('input') ? null : cell.textContent)}))
"""

WHY = """
(why => ({subject: why.querySelector('h2').firstChild.textContent,
        value: why.querySelector('h2 .gives').textContent,
        formulas: [...why.querySelectorAll('.row')].map(row => row.textContent),
        sources: [...why.querySelectorAll('.sources button')].map(each => each.textContent),
        marked: document.querySelectorAll('#desk td.used').length,
        note: [...why.querySelectorAll('p')].map(each => each.textContent).join(' ')}))(document.getElementById('why'))
"""

# All that a line shows, in one question to the browser: there are many lines.
LINE = f"""
const minibatch = document.querySelector('#minibatches button[aria-pressed=true]');
return {{heading: document.querySelector('#desk h2').innerText,
         stage: document.querySelector('#stages button[aria-pressed=true]').innerText,
         said: document.getElementById('said').textContent,
         words: [...document.querySelectorAll('#desk p')].map(each => each.textContent),
         tables: {TABLES}, why: {WHY},
         goes_on: !document.getElementById('on').disabled,
         minibatch: minibatch && [minibatch.dataset.at, minibatch.innerText]}};
"""

# Every formula of the page, evaluated there, beside its number: how many, and those that differ. Of
# sums that are folded, what is said of the part that is not shown has to be the rest of the whole.
EVALUATED = """
(() => {
  const wrong = [];
  let count = 0;
  let folded = 0;
  const writer = new FormulaWriter(true, false);
  const checkFolds = formula => {
    if (!Array.isArray(formula)) return;
    formula.forEach(checkFolds);
    const terms = formula.slice(1);
    if (formula[0] !== "+" || terms.length <= 6) return;
    // The largest five, or the largest four and what stands behind products; sums in their order.
    const numbers = terms.map(evaluate);
    const last = numbers.at(-1);
    const isSorted = !terms.some(hasSum);
    const keepsLast = !isSorted || kindOf(terms.at(-1)) !== kindOf(terms[0]);
    const others = keepsLast ? numbers.slice(0, -1) : [...numbers];
    if (isSorted) others.sort((a, b) => Math.abs(b) - Math.abs(a));
    const shown = keepsLast ? [...others.slice(0, 4), last] : others.slice(0, 5);
    const rest = shown.reduce((left, each) => left - each, evaluate(formula));
    const said = writer.list(terms, "+", 1, true).textContent.match(/\\[(\\d+) more: ([^\\]]+)\\]/);
    ++folded;
    const number = said && Number(said[2].replace("\u2212", "-").replace(/e\u2212/, "e-"));
    if (!said || Number(said[1]) !== terms.length - 5 ||
        !(Math.abs(number - rest) <= 1e-3 * Math.abs(rest) + 1e-9 * Math.abs(evaluate(formula)))) {
      wrong.push(["folded", said && said[0], rest]);
    }
  };
  minibatch().tables.forEach((table, at) => table.made !== undefined &&
    table.numbers.forEach((_, place) => {
      const number = numberAt({table: at, place});
      const formula = formulaOf({table: at, place});
      const value = evaluate(formula);
      if (place < 3) checkFolds(formula);
      ++count;
      if (!(Math.abs(value - number) <= 1e-9 * Math.max(1, Math.abs(number)))) {
        wrong.push([table.name, place, value, number]);
      }
    }));
  if (Math.abs(evaluate(["f", "log", ["+", 2, 4]]) - Math.log(6)) > 1e-15) wrong.push(["log of a sum"]);
  return {count, folded, wrong};
})()
"""


# The pictures of the line that the page opens with: what is written in their points, and how dark each is.
PICTURES = """
[...document.querySelectorAll('#desk number-table.pictures')].map(table => ({
  name: table.querySelector('caption b').textContent,
  written: [...table.querySelectorAll('td')].map(cell => cell.textContent).join(''),
  sizes: [...table.querySelectorAll('td')].map(cell => Number(cell.style.getPropertyValue('--size')))}))
"""

# Every number of the first convolution asked: does its patch give it, but for the bias?
PATCHES = """
(() => {
  const table = minibatch().tables.findIndex(each => each.name === "conv");
  if (table < 0) return null;
  const {numbers, roles, shape} = tableOf({table, place: 0});
  const biases = minibatch().tables.find(each => each.name === "conv.bias").numbers;
  const wrong = numbers.filter((number, place) => {
    const index = indexOf(shape, place);
    const products = patchesOf(formulaOf({table, place})).flat();
    const sum = products.reduce((total, {met, by}) => total + numberAt(met.spot) * numberAt(by.spot), 0);
    return !(Math.abs(sum + biases[index.at(-1)] - number) < 1e-9);
  }).length;
  ask({table, place: 0}, true);
  const cells = [...document.querySelectorAll('#why .patch table')].map(each => each.querySelectorAll('td').length);
  const met = document.querySelector('#why .patch td').textContent;
  document.querySelector('#why .patch td').click();
  const followed = document.querySelector('#why h2').firstChild.textContent;
  const gradients = minibatch().tables.findIndex(each => each.name === "∂conv.kernel");
  const ofKernel = patchesOf(formulaOf({table: gradients, place: 0})).map(each => each.length);
  return {count: numbers.length, wrong, cells, met, followed, ofKernel};
})()
"""


def read(browser, what):
    return browser.execute_script("return " + what.strip())


def walk(browser):
    """Through every line of the first minibatch with the keyboard alone, and on to the next one."""
    seen = []
    press(browser, Keys.HOME)
    while True:
        line = browser.execute_script(LINE)
        if line["minibatch"] and line["minibatch"][0] != "0":
            press(browser, Keys.PAGE_UP)
            return seen, line["minibatch"][1]
        seen.append(line)
        if not line["goes_on"]:
            return seen, ""
        press(browser, Keys.PAGE_DOWN)


def ask_with_keys(browser):
    """Four numbers, reached with Tab and the arrows, asked with Enter; the last is followed to the
    update's figures and from there back to a gradient."""
    asked = []
    for stage in ("1", "2", "3", "4"):
        press(browser, stage)
        if stage == "1":
            for _ in range(8):
                press(browser, Keys.PAGE_DOWN)
        first = browser.find_element(By.CSS_SELECTOR, "#desk number-table td[tabindex='0']")
        browser.execute_script("arguments[0].focus()", first)
        press(browser, Keys.ARROW_RIGHT)
        press(browser, Keys.ENTER)
        asked.append(read(browser, WHY))
    for name in ("m̂[", "m[", "∂hidden.weight["):
        sources = [each for each in browser.find_elements(By.CSS_SELECTOR, "#why .sources button")
                   if each.text.startswith(name)]
        if not sources:
            break
        sources[0].send_keys(Keys.ENTER)
        asked.append(read(browser, WHY))
        asked[-1]["trail"] = len(browser.find_elements(By.CSS_SELECTOR, "#why .trail button"))
        asked[-1]["heading"] = browser.find_element(By.CSS_SELECTOR, "#desk h2").text
    return asked


def exercise(browser, blanks):
    """Each blank by its button: the first wrongly, with hints, the others rightly."""
    seen = []
    buttons = len(browser.find_elements(By.CSS_SELECTOR, "#exercise .list button"))
    for at in range(buttons):
        browser.find_elements(By.CSS_SELECTOR, "#exercise .list button")[at].click()
        blank = {"name": read(browser, WHY)["subject"],
                 "formulas_before": read(browser, WHY)["formulas"],
                 "focused": browser.switch_to.active_element.tag_name}
        if at == 0:
            for text in ("nonsense", "1e9", "-1e9"):
                browser.switch_to.active_element.send_keys(Keys.CONTROL, "a")
                press(browser, text, Keys.ENTER)
                blank[text] = {"status": browser.find_element(
                    By.CSS_SELECTOR, "#exercise [role=status]").text,
                               "formulas": len(read(browser, WHY)["formulas"]),
                               "value": read(browser, WHY)["value"]}
            browser.switch_to.active_element.send_keys(Keys.CONTROL, "a")
        press(browser, blanks[at], Keys.ENTER)
        blank["after"] = browser.find_elements(
            By.CSS_SELECTOR, "#exercise .list button")[at].get_attribute("data-state")
        seen.append(blank)
    return {"blanks": seen, "summary": browser.find_element(By.CSS_SELECTOR, "#exercise h2").text}


def printed(browser, folder):
    with open(f"{folder}/page.pdf", "wb") as file:
        file.write(base64.b64decode(browser.print_page()))
    text = subprocess.run(["pdftotext", "-layout", f"{folder}/page.pdf", "-"], check=True,
                          capture_output=True, text=True).stdout
    return text.split("\f")


def requests(browser, page):
    """What the page asked for: not what the browser did before it was opened."""
    asked = []
    for entry in browser.get_log("performance"):
        message = json.loads(entry["message"])["message"]
        if (message["method"] == "Network.requestWillBeSent" and
                message["params"]["documentURL"].endswith(page)):
            asked.append(message["params"]["request"]["url"])
    return asked


def main():
    page, answers = sys.argv[1], json.loads(sys.argv[2])
    with tempfile.TemporaryDirectory() as folder:
        browser = start(folder)
        try:
            browser.get(f"file://{page}")
            if len(sys.argv) > 3:
                with open(sys.argv[3]) as file:
                    numbers = json.load(file)
                json.dump({"formatted": browser.execute_script(
                    "return arguments[0].map(each => formatNumber(each))", numbers)}, sys.stdout)
                return
            report = {"title": browser.title, "blank_pages": printed(browser, folder)}
            report["pictures"] = read(browser, PICTURES)
            press(browser, "n")
            report["walk"], report["went_on_to"] = walk(browser)
            if not answers:
                report["asked"] = ask_with_keys(browser)
            else:
                report["exercise"] = exercise(browser, answers)
            minibatches = browser.find_elements(By.CSS_SELECTOR, "#minibatches button[data-at]")
            for each in minibatches[1:]:
                each.click()
                report["other_minibatch"] = read(browser, TABLES)
            report["evaluated"] = read(browser, EVALUATED)
            report["patches"] = read(browser, PATCHES)
            report["minibatches"] = [each.text for each in minibatches]
            report["curves"] = browser.execute_script(CURVES)
            report["console"] = [entry["message"] for entry in browser.get_log("browser")]
            report["requests"] = requests(browser, page)
            if report["patches"]:
                browser.get(f"file://{page}#conv[0,1,2,0]")
                report["opened_at"] = read(browser, WHY)["subject"]
            json.dump(report, sys.stdout)
        finally:
            browser.quit()


main()
