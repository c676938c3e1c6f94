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

sys.path.append("/usr/lib/python3/dist-packages")
from selenium import webdriver  # noqa: E402
from selenium.webdriver.common.by import By  # noqa: E402
from selenium.webdriver.common.keys import Keys  # noqa: E402


def start(folder):
    options = webdriver.ChromeOptions()
    for flag in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage",
                 f"--user-data-dir={folder}", "--window-size=1280,800"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
    service = webdriver.chrome.service.Service("/usr/bin/chromedriver")
    return webdriver.Chrome(service=service, options=options)


def press(browser, *keys):
    browser.switch_to.active_element.send_keys(*keys)


TABLES = """
return [...document.querySelectorAll('#desk number-table')].map(table => ({
  name: table.querySelector('caption b').textContent,
  cells: [...table.querySelectorAll('td')].map(cell =>
    cell.querySelector('input') ? null : cell.textContent)}));
"""

WHY = """
const why = document.getElementById('why');
return {subject: why.querySelector('h2').firstChild.textContent,
        value: why.querySelector('h2 .gives').textContent,
        formulas: [...why.querySelectorAll('.row')].map(row => row.textContent),
        sources: [...why.querySelectorAll('.sources button')].map(each => each.textContent),
        marked: document.querySelectorAll('#desk td.used').length,
        note: [...why.querySelectorAll('p')].map(each => each.textContent).join(' ')};
"""


def walk(browser):
    """Through every line of the first minibatch with the keyboard alone, and on to the next one."""
    seen = []
    press(browser, Keys.HOME)
    while True:
        seen.append({"heading": browser.find_element(By.CSS_SELECTOR, "#desk h2").text,
                     "stage": browser.find_element(
                         By.CSS_SELECTOR, "#stages button[aria-pressed=true]").text,
                     "said": browser.find_element(By.ID, "said").get_attribute("textContent"),
                     "tables": browser.execute_script(TABLES),
                     "why": browser.execute_script(WHY)})
        if not browser.find_element(By.ID, "on").is_enabled():
            return seen, ""
        press(browser, Keys.PAGE_DOWN)
        now = browser.find_elements(By.CSS_SELECTOR, "#minibatches button[aria-pressed=true]")
        if now and now[0].get_attribute("data-at") != "0":
            label = now[0].text
            press(browser, Keys.PAGE_UP)
            return seen, label


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
        asked.append(browser.execute_script(WHY))
    for name in ("m̂[", "m[", "∂hidden.weight["):
        sources = [each for each in browser.find_elements(By.CSS_SELECTOR, "#why .sources button")
                   if each.text.startswith(name)]
        if not sources:
            break
        sources[0].send_keys(Keys.ENTER)
        asked.append(browser.execute_script(WHY))
        asked[-1]["trail"] = len(browser.find_elements(By.CSS_SELECTOR, "#why .trail button"))
        asked[-1]["heading"] = browser.find_element(By.CSS_SELECTOR, "#desk h2").text
    return asked


def exercise(browser, blanks):
    """Each blank by its button: the first wrongly, with hints, the others rightly."""
    seen = []
    buttons = len(browser.find_elements(By.CSS_SELECTOR, "#exercise .list button"))
    for at in range(buttons):
        browser.find_elements(By.CSS_SELECTOR, "#exercise .list button")[at].click()
        blank = {"name": browser.execute_script(WHY)["subject"],
                 "formulas_before": browser.execute_script(WHY)["formulas"],
                 "focused": browser.switch_to.active_element.tag_name}
        if at == 0:
            for text in ("nonsense", "1e9", "-1e9"):
                browser.switch_to.active_element.send_keys(Keys.CONTROL, "a")
                press(browser, text, Keys.ENTER)
                blank[text] = {"status": browser.find_element(
                    By.CSS_SELECTOR, "#exercise [role=status]").text,
                               "formulas": len(browser.execute_script(WHY)["formulas"]),
                               "value": browser.execute_script(WHY)["value"]}
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
            report["walk"], report["went_on_to"] = walk(browser)
            if not answers:
                report["asked"] = ask_with_keys(browser)
            else:
                report["exercise"] = exercise(browser, answers)
            minibatches = browser.find_elements(By.CSS_SELECTOR, "#minibatches button")
            for each in minibatches[1:]:
                each.click()
                report["other_minibatch"] = browser.execute_script(TABLES)
            report["minibatches"] = [each.text for each in minibatches]
            report["curves"] = len(browser.find_elements(By.CSS_SELECTOR, "#run svg"))
            report["console"] = [entry["message"] for entry in browser.get_log("browser")]
            report["requests"] = requests(browser, page)
            json.dump(report, sys.stdout)
        finally:
            browser.quit()


main()
