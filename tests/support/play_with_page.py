"""play_with_page.py PAGE WHAT: changes numbers on a page in headless Chromium with mouse and keyboard, as a student
would, and prints what was seen as JSON. WHAT is one of the functions below.
"""
import base64
import json
import subprocess
import time

from browser import main
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

STATE = """
return {asked: document.querySelector("#why h2").firstChild.textContent,
        gives: document.querySelector("#why .gives").textContent,
        was: document.querySelector("#why .was")?.textContent ?? "",
        bar: document.getElementById("changes").innerText,
        question: document.querySelector("#changes .question")?.innerText ?? "",
        said: document.getElementById("said").textContent,
        changes: changes.size, hash: location.hash,
        marked: document.querySelectorAll("#desk td.changed").length,
        own: document.querySelectorAll("#desk td.own").length,
        tables: [...document.querySelectorAll("#desk number-table caption b")].map(each => each.textContent),
        lines: document.querySelectorAll("#sheet li[data-changed]").length,
        steps: [...document.querySelectorAll("#minibatches button")].map(each => each.innerText),
        focus: document.activeElement.tagName + " " + (document.activeElement.type ?? "")};
"""


def state(browser):
    return browser.execute_script(STATE)


def press(browser, *keys):
    browser.switch_to.active_element.send_keys(*keys)


def ask(browser, number):
    browser.execute_script("ask(spotCalled(shown.minibatch, arguments[0]), true); document.activeElement.blur()", number)


def type_number(browser, text):
    press(browser, "e")
    press(browser, Keys.CONTROL, "a")
    press(browser, text, Keys.ENTER)


def switch(browser, is_on):
    box = browser.find_element(By.CSS_SELECTOR, "#changes input[type=checkbox]")
    if box.is_selected() != is_on:
        box.click()


def button(browser, text):
    return next(each for each in browser.find_elements(By.CSS_SELECTOR, "#changes button") if each.text.startswith(text))


def keys(browser, page, folder):
    """Typed, moved with the arrows and put back, with the keyboard alone."""
    seen = {"start": state(browser)}
    switch(browser, False)
    ask(browser, "hidden.weight[0,1]")
    browser.find_element(By.TAG_NAME, "body").click()
    type_number(browser, "nonsense")
    seen["nonsense"] = state(browser)
    type_number(browser, "-2,5")
    seen["typed"] = state(browser)
    press(browser, Keys.ARROW_UP, Keys.ARROW_UP)
    seen["up"] = state(browser)
    press(browser, Keys.SHIFT, Keys.ARROW_DOWN)
    seen["down"] = state(browser)
    browser.execute_script("document.activeElement.blur()")
    press(browser, "m")
    seen["most"] = state(browser)
    ask(browser, "raw[0,0]")
    type_number(browser, "3")
    browser.execute_script("document.activeElement.blur()")
    seen["two"] = state(browser)
    press(browser, "u")
    seen["one_back"] = state(browser)
    press(browser, "U")
    seen["all_back"] = state(browser)
    field = browser.find_element(By.CSS_SELECTOR, "#network input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2", Keys.ENTER)
    seen["example"] = browser.execute_script("return [exampleShown, entryNow().stage]")
    return seen


def drag(browser, page, folder):
    """The slider, dragged with the mouse: while it is held, numbers follow."""
    switch(browser, False)
    ask(browser, "output.bias[0]")
    slider = browser.find_element(By.CSS_SELECTOR, "#change input[type=range]")
    ActionChains(browser).move_to_element(slider).click_and_hold().move_by_offset(40, 0).perform()
    held = state(browser)
    ActionChains(browser).move_by_offset(20, 0).release().perform()
    return {"held": held, "released": state(browser)}


def classes(browser, page, folder):
    """The true class, chosen from a list of names; and what cannot be changed."""
    switch(browser, False)
    ask(browser, "y[1]")
    field = Select(browser.find_element(By.CSS_SELECTOR, "#change select"))
    names = [each.text for each in field.options]
    before = state(browser)
    field.select_by_index((names.index(field.first_selected_option.text) + 1) % len(names))
    seen = {"names": names, "before": before, "after": state(browser)}
    seen["slow"] = browser.execute_script("lastWorking = 600; drawBar(); return document.getElementById('changes').innerText")
    ask(browser, "loss")
    seen["calculated"] = len(browser.find_elements(By.CSS_SELECTOR, "#change *"))
    return seen


def predict(browser, page, folder):
    """Asked first: a right guess, a wrong one, and none."""
    seen = []
    for text, guess in (("5", "▲"), ("5.5", "▼"), ("-0.5", "="), ("0.25", "show")):
        ask(browser, "hidden.weight[0,1]")
        type_number(browser, text)
        asked = state(browser)
        asked["loss"] = browser.execute_script("return numberAt(resultSpot())")
        button(browser, guess).click()
        after = state(browser)
        after["loss"] = browser.execute_script("return numberAt(resultSpot())")
        seen.append({"asked": asked, "after": after})
    browser.get(f"file://{page}")
    switch(browser, False)
    ask(browser, "hidden.weight[0,1]")
    type_number(browser, "1")
    off = state(browser)
    browser.get(f"file://{page}")
    return {"asked": seen, "off": off, "is_still_off": not browser.execute_script("return predicting.isOn")}


def beside(browser, page, folder):
    """Before the changes beside after them, and another step."""
    switch(browser, False)
    ask(browser, "hidden.weight[0,1]")
    type_number(browser, "0.5")
    ask(browser, "hidden[0,1]")
    numbers = """
      return [...document.querySelectorAll("#desk number-table")].slice(0, 3).map(table =>
        [table.querySelector("caption b").textContent, [...table.numbers]]);
    """
    Select(browser.find_element(By.CSS_SELECTOR, "#changes select")).select_by_value("before")
    seen = {"before": browser.execute_script(numbers)}
    Select(browser.find_element(By.CSS_SELECTOR, "#changes select")).select_by_value("1")
    seen["step"] = browser.execute_script(numbers)
    return seen


def files(browser, page, folder):
    """Saved, put back and loaded; and files that are none of ours."""
    switch(browser, False)
    browser.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": folder})
    for number, text in (("hidden.weight[0,1]", "0.5"), ("rate", "0.3")):
        ask(browser, number)
        type_number(browser, text)
    browser.find_element(By.ID, "take-step").click()
    button(browser, "save").click()
    time.sleep(1)
    with open(f"{folder}/changes.json") as file:
        saved = json.load(file)
    before = state(browser)
    browser.get("about:blank")
    browser.get(f"file://{page}")
    seen = {"saved": saved, "before": before, "loaded": []}
    field = browser.find_element(By.CSS_SELECTOR, "#changes input[type=file]")
    hostile = {"page": "x", "steps_taken": 1e9, "changes": [
        {"step": 1, "number": "hidden.weight[9,9]", "value": 1}, {"step": 1, "number": "constructor", "value": 1},
        {"step": "1", "number": "hidden[0,0]", "value": 1}, {"step": 1, "number": "rate", "value": "2"}, None, 3,
        {"step": 7, "number": "<img src=x onerror=alert(1)>", "value": 1}]}
    texts = [json.dumps(saved), "no JSON", "[]", json.dumps(hostile)]
    for at, text in enumerate(texts):
        name = f"{folder}/<b>{at}.json"
        with open(name, "w") as file:
            file.write(text)
        field = browser.find_element(By.CSS_SELECTOR, "#changes input[type=file]")
        field.send_keys(name)
        time.sleep(0.4)
        seen["loaded"].append({**state(browser), "markup": len(browser.find_elements(By.CSS_SELECTOR, "#changes b i, #changes img"))})
    return seen


def steps(browser, page, folder):
    """Ten steps by hand, the rate changed on the way."""
    switch(browser, False)
    seen = {"start": state(browser)["steps"]}
    for _ in range(4):
        browser.find_element(By.ID, "take-step").click()
    ask(browser, "rate")
    type_number(browser, "0.5")
    while browser.find_elements(By.ID, "take-step"):
        browser.find_element(By.ID, "take-step").click()
    seen["end"] = state(browser)
    seen["rates"] = browser.execute_script("""
      return data.steps.map((step, at) => stepNumbers[at].now(step.tables.findIndex(each => each.is_rate))[0]);""")
    seen["losses"] = browser.execute_script("""
      return [...document.querySelectorAll("#progress path.line")].map(each => each.getAttribute("d").split("L").length);""")
    time.sleep(0.5)
    seen["plane"] = browser.execute_script("""
      const box = document.getElementById("plane");
      return {isShown: !box.hidden, words: box.innerText, colours: new Set(box.querySelector("canvas").getContext("2d")
        .getImageData(0, 0, 460, 340).data).size};""")
    seen["corners"] = browser.execute_script("""
      const plane = new Plane(data.plane, weightsNow(true));
      return [[4, 20], [8, 40], [14, 70]].map(point => plane.answerAt(point));""")
    seen["weights"] = browser.execute_script("""
      return Object.fromEntries(minibatch().tables.map((table, at) => [table.name, [...numbersNow().now(at)]])
        .filter(([name]) => /^(hidden|output)\\.(weight|bias)$/.test(name)));""")
    return seen


def typed(browser, page, folder):
    """What can be typed for a number, and what cannot."""
    texts = ["0,3", "(0.3 − 1)/4", "1/3", "2·3×4", "-2^2", "2^-1", "1e-3*5", "((1))", " 1 + 2 ", "3--2", "", "(", "1)", "1 2 +",
             "1//2", "1/0", "alert(1)", "2**3", "0x10", "1e999", "(" * 300 + "1" + ")" * 300, "1,000.5", "--3"]
    return browser.execute_script("return arguments[0].map(text => [text, parseTyped(text)])", texts)


def slips(browser, page, folder):
    """An exercise whose blanks get the answers of usual slips, is left, and found again; and its file."""
    browser.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": folder})
    answers = browser.execute_script("""
      const m = minibatch().rows.length;
      return blanks.map((blank, at) => {
        const number = numberOfBlank(blank);
        const {kind, line, shape} = tableOf(blank);
        const all = stepNumbers[0].stored(blank.table);
        const before = kind === "after" ? stepNumbers[0].stored(line - 1)[blank.place] : 0;
        const formula = formulaOf(blank);
        const wrong = [["sign", -number], ["mean", number * m], ["half", number / 2], ["before", before],
          ["direction", 2 * before - number], ["other", all[(blank.place + 1) % all.length]],
          ["transposed", shape.length === 2 ? all[blank.place % shape[1] * shape[1] + Math.floor(blank.place / shape[1])] : 0],
          ["term", formula[0] === "+" ? number - evaluate(formula[1]) : 0]];
        return {at, kind: tableOf(blank).kind, wrong};
      });""")
    seen = []
    for blank in answers:
        for slip, number in blank["wrong"]:
            seen.append([blank["kind"], slip, browser.execute_script("""
              const blank = blanks[arguments[0]];
              goToBlank(blank);
              judge(blank, String(arguments[1]));
              drawWhy();
              return [blank.state, diagnosis(blank), document.querySelector("#exercise [role=status]")?.textContent ?? ""];
            """, blank["at"], number)])
    state = """return {blanks: progressOf(), steps: [...document.querySelectorAll("#minibatches button")].map(each => each.innerText),
                       summary: document.querySelector("#exercise h2").innerText,
                       change: document.querySelector("#change").innerText};"""
    browser.execute_script("const blank = blanks[0]; judge(blank, String(numberOfBlank(blank))); redraw(); drawWhy();"
                           "ask({table: minibatch().tables.findIndex(each => each.given === 'weight'), place: 0}, true)")
    left = browser.execute_script(state)
    browser.get("about:blank")
    browser.get(f"file://{page}")
    found = browser.execute_script(state)
    browser.execute_script("window.prompt = () => 'Ada'")
    next(each for each in browser.find_elements(By.CSS_SELECTOR, "#exercise button") if each.text == "save answers").click()
    time.sleep(1)
    with open(f"{folder}/answers-Ada.json") as file:
        saved = json.load(file)
    browser.execute_script("for (const blank of blanks) judge(blank, String(numberOfBlank(blank))); redraw(); drawSteps(); drawWhy();")
    return {"slips": seen, "left": left, "found": found, "saved": saved, "done": browser.execute_script(state)}


def paper(browser, page, folder):
    """What is printed, page by page; and which numbers of a blank's formula stand nowhere in it."""
    text = base64.b64decode(browser.print_page())
    with open(f"{folder}/page.pdf", "wb") as file:
        file.write(text)
    pages = subprocess.run(["pdftotext", "-layout", f"{folder}/page.pdf", "-"], check=True, capture_output=True,
                           text=True).stdout.split("\f")
    missing = browser.execute_script("""
      document.getElementById("printed").replaceChildren(...printedForm());
      const box = document.getElementById("printed");
      const seen = new Set();
      for (const table of box.querySelectorAll("number-table")) {
        for (const cell of table.querySelectorAll("td")) if (cell.textContent) seen.add(`${table.table}:${cell.dataset.place}`);
      }
      const listed = [...box.querySelectorAll("p")].map(each => each.textContent).join(" ");
      const inPatches = new Set([...box.querySelectorAll(".patch td[title]")].map(each => each.title));
      const wrong = blanks.flatMap(blank => spotsIn(formulaOf(blank)).filter(spot => !isHidden(spot) &&
        tableOf(spot).kind !== "setting" && !seen.has(`${spot.table}:${spot.place}`) && !inPatches.has(nameOf(spot)) &&
        !listed.includes(`${nameOf(spot)} = `)).map(nameOf));
      const boxes = [...box.querySelectorAll(".box")].map(each => each.textContent);
      box.replaceChildren();
      return {wrong, boxes, blanks: blanks.length};""")
    return {"pages": [each for each in pages if each.strip()], **missing}


def meaning(browser, page, folder):
    """What is said of gradients and of updates, beside what a change of that size does to the result."""
    return browser.execute_script("""
      predicting.isOn = false;
      goToStage("reverse");
      const seen = [];
      for (const name of ["hidden.weight[0,1]", "hidden.bias[2]", "output.weight[1,0]", "hidden[0,1]"]) {
        ask(spotCalled(0, "∂" + name), true);
        const said = document.querySelector("#why .meaning")?.textContent ?? "";
        const spot = spotCalled(0, name);
        const before = numberAt(resultSpot());
        const is = numberAt(spot);
        const step = Number(said.match(/were ([\d.e−]+) larger/)?.[1].replace("−", "-"));
        let moved = 0;
        if (tableOf(spot).made === undefined) {
          setNumber(spot, is + step);
          moved = numberAt(resultSpot()) - before;
          putBackAll();
        }
        seen.push({name, said, moved, gradient: numberAt(spotCalled(0, "∂" + name)),
                   place: document.querySelector("#why .place").textContent});
      }
      goToStage("update");
      const updates = ["new hidden.weight[0,1]", "new hidden.weight[1,1]", "new output.weight[1,0]"].map(name => {
        ask(spotCalled(0, name), true);
        const spot = spotCalled(0, name);
        return {said: document.querySelector("#why .meaning")?.textContent ?? "", by: numberAt(spot) - numberAt(spotCalled(0, name.slice(4)))};
      });
      return {gradients: seen, updates};""")


def flow(browser, page, folder):
    """What passes through the layers: as the command worked it and as the page does, with a change, and back."""
    shown_rows = "return [...document.querySelectorAll('#flow tr')].slice(1).map(each => each.innerText)"
    steps = browser.execute_script("""
      return data.steps.map((step, at) => {
        goToMinibatch(at, 0);
        return {command: step.flow, page: flowNow(step.flow)};
      });""")
    browser.execute_script("predicting.isOn = false; goToMinibatch(0, 0)")
    before = browser.execute_script(shown_rows)
    browser.execute_script("""
      const at = minibatch().tables.findIndex(each => each.given === "weight" && each.name.endsWith("weight"));
      setNumber({table: at, place: 0}, 3);""")
    changed = browser.execute_script(shown_rows)
    browser.execute_script("putBackAll()")
    return {"steps": steps, "before": before, "changed": changed, "after": browser.execute_script(shown_rows)}


def hostile(browser, page, folder):
    """Addresses that nobody wrote in good faith."""
    seen = []
    for text in (";1%3Ax%5B0%2C0%5D%3D1", ";%", ";1:rate=1e999", ";constructor:__proto__=1", ";+99999999",
                 ";1%3A%3Cimg%20src%3Dx%3E%3D1", ";1:hidden[0,0]=1", ";1:x[0.5,0]=1", ";1:x[-1,0]=1", ";:::===", "x" * 5000,
                 ";" * 3000, ";1:rate=NaN"):
        browser.get("about:blank")
        browser.get(f"file://{page}#{text}")
        seen.append(state(browser))
    return seen


main(globals())
