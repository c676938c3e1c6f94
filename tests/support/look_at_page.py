"""look_at_page.py PAGE WHAT: looks at a page in headless Chromium as people do who sit far away, or on a phone, or use
a keyboard alone, or do not see it, and prints what was found as JSON. WHAT is one of the functions below.
"""
from browser import main
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

# The colours of all texts that are seen: the least contrast with what is behind them (WCAG 2.2, 1.4.3), and where.
CONTRAST = """
  const context = Object.assign(document.createElement("canvas"), {width: 1, height: 1}).getContext("2d", {willReadFrequently: true});
  const rgba = css => {
    context.clearRect(0, 0, 1, 1);
    context.fillStyle = css;
    context.fillRect(0, 0, 1, 1);
    return [...context.getImageData(0, 0, 1, 1).data];
  };
  const over = (top, under) => top.slice(0, 3).map((each, at) => (each * top[3] + under[at] * (255 - top[3])) / 255);
  const behind = element => {
    const own = rgba(getComputedStyle(element).backgroundColor);
    if (own[3] === 255) return own.slice(0, 3);
    return over(own, element.parentElement ? behind(element.parentElement) : [255, 255, 255]);
  };
  const light = colour => colour.map(each => each / 255).map(each => each <= 0.04045 ? each / 12.92 : ((each + 0.055) / 1.055) ** 2.4)
    .reduce((sum, each, at) => sum + each * [0.2126, 0.7152, 0.0722][at], 0);
  let least = {contrast: 99};
  let count = 0;
  const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (texts.nextNode()) {
    const element = texts.currentNode.parentElement;
    if (!texts.currentNode.data.trim() || !element.getClientRects().length || element.closest("svg, :disabled, .hidden-from-eyes, script")) continue;
    const ground = behind(element);
    const [a, b] = [light(over(rgba(getComputedStyle(element).color), ground)), light(ground)].sort((x, y) => y - x);
    const contrast = (a + 0.05) / (b + 0.05);
    ++count;
    if (contrast < least.contrast) least = {contrast, text: texts.currentNode.data.slice(0, 40), parent: element.outerHTML.slice(0, 120)};
  }
  return {...least, count};
"""


def window(browser, width, height, is_mobile=False):
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride",
                            {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": is_mobile})


def press(browser, *keys):
    browser.switch_to.active_element.send_keys(*keys)


def stages(browser):
    return browser.execute_script("return stages")


def contrast(browser, page, folder):
    """The least contrast on light and dark ground, on every stage."""
    seen = []
    for _ in range(2):
        for stage in stages(browser):
            browser.execute_script("goToStage(arguments[0]); goOn()", stage)
            seen.append(browser.execute_script(CONTRAST))
        browser.execute_script("turnTerms()")
        seen.append(browser.execute_script(CONTRAST))
        browser.execute_script("turnTerms()")
        browser.find_element(By.ID, "ground").click()
    return seen


def without_eyes(browser, page, folder):
    """What assistive technology is told: the tree of accessible objects on every stage, and what is said when we go on."""
    nameless, roles, said = [], {}, []
    for stage in stages(browser):
        browser.execute_script("goToStage(arguments[0]); document.activeElement.blur()", stage)
        press(browser, Keys.PAGE_DOWN)
        said.append(browser.find_element(By.ID, "said").get_attribute("textContent"))
        for node in browser.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]:
            if node.get("ignored"):
                continue
            role = node["role"]["value"]
            name = node.get("name", {}).get("value", "")
            can_be_focused = any(each["name"] == "focusable" and each["value"]["value"] for each in node.get("properties", []))
            roles[role] = roles.get(role, 0) + 1
            if not name and (can_be_focused or role in ("heading", "grid", "region", "navigation", "dialog", "image")):
                nameless.append([stage, role])
    live = browser.execute_script("return document.getElementById('said').getAttribute('aria-live')")
    return {"nameless": nameless, "roles": roles, "said": said, "live": live}


def keyboard(browser, page, folder):
    """By the Tab key alone: what it comes to, and whether that is marked. Then a number is asked for in a table."""
    met, unmarked = [], []
    for _ in range(300):
        press(browser, Keys.TAB)
        where = browser.execute_script("""
          const {activeElement: at} = document;
          const style = getComputedStyle(at);
          return {tag: at.tagName, id: at.id, isBody: at === document.body, text: at.textContent.slice(0, 20),
                  isMarked: style.outlineStyle !== "none" || at.closest("svg") !== null};""")
        if where["isBody"]:
            break
        met.append(f"{where['tag']} {where['id'] or where['text']}")
        if not where["isMarked"]:
            unmarked.append(where)
    browser.execute_script("goToStage('update'); document.querySelector('#desk td').focus()")
    press(browser, Keys.ARROW_DOWN)
    press(browser, Keys.ARROW_RIGHT)
    press(browser, Keys.ENTER)
    asked = browser.execute_script("return nameOf(shown.asked)")
    press(browser, "?")
    terms = browser.execute_script("return {isOpen: termsBox.open, isInside: termsBox.contains(document.activeElement)}")
    press(browser, Keys.PAGE_UP)
    stays = browser.execute_script("return entryNow().stage")
    press(browser, Keys.ESCAPE)
    closed = browser.execute_script("return termsBox.open")
    return {"met": met, "unmarked": unmarked, "asked": asked, "terms": terms, "stays": stays, "closed": closed}


def terms(browser, page, folder, last=1000):
    """The terms of every line: how many stand under each heading, and the names of those of the line."""
    return browser.execute_script("""
      return minibatch().walk.slice(0, arguments[0]).map((entry, at) => {
        goTo(at);
        const buttons = [...document.querySelectorAll("#desk .terms button")];
        buttons[0]?.click();
        const opened = termsBox.querySelector("dt.asked")?.textContent;
        termsBox.close();
        turnTerms();
        const names = [...termsBox.querySelectorAll("dl:first-of-type dt")].map(each => each.textContent);
        const all = termsBox.querySelectorAll("dt").length;
        const headings = [...termsBox.querySelectorAll("h2")].map(each => each.textContent);
        turnTerms();
        return {line: entry.stage + " " + entry.name, names, all, headings, opened,
                buttons: buttons.map(each => each.textContent)};
      });""", last)


def first_terms(browser, page, folder):
    return terms(browser, page, folder, 10)


SIZES = """
  const size = element => parseFloat(getComputedStyle(element).fontSize);
  const root = document.documentElement;
  return {root: size(root), text: size(document.getElementById("about")),
          math: [...document.querySelectorAll("#why :is(mn, mi)")].filter(each => !each.closest("msup, msub")).map(size),
          wide: [root.scrollWidth, innerWidth], high: [root.scrollHeight, innerHeight],
          scrolled: [...document.querySelectorAll("#desk > h2, #desk number-table, #why .row")].filter(each => each.scrollWidth > each.clientWidth).length,
          isSlide: root.hasAttribute("data-slide"), line: entryNow().name,
          seen: [...document.querySelectorAll("header, #sheet, #network, #changes, #desk, #why, footer")]
            .filter(each => each.getClientRects().length).map(each => each.id || each.tagName.toLowerCase()),
          tables: [...document.querySelectorAll("#desk number-table")].filter(each => each.getClientRects().length)
            .map(each => ({name: each.content.name, rows: each.querySelectorAll("tbody tr").length}))};
"""


def sizes(browser, page, folder):
    """Everything larger and smaller by key, as it was left when the page comes back, and as usual."""
    seen = {"usual": browser.execute_script(SIZES)}
    for name, keys in (("larger", "+++"), ("smaller", "−−−-"), ("smallest", "-" * 20), ("usual_again", "0"), ("left", "=")):
        for key in keys:
            press(browser, key)
        seen[name] = browser.execute_script(SIZES)
    seen["said"] = browser.find_element(By.ID, "said").get_attribute("textContent")
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    seen["on_paper"] = browser.execute_script("return getComputedStyle(document.documentElement).fontSize")
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
    browser.get("about:blank")
    browser.get(f"file://{page}")
    seen["found"] = browser.execute_script(SIZES)
    return seen


def slides(browser, page, folder):
    """Every line as a slide, by the keys of presenters; and the page again."""
    window(browser, 1280, 800)
    press(browser, "s")
    seen = []
    for key in [Keys.PAGE_DOWN, Keys.ARROW_RIGHT, " "] * 40:
        seen.append(browser.execute_script(SIZES))
        press(browser, key)
        if browser.execute_script("return document.getElementById('on').disabled"):
            break
    seen.append(browser.execute_script(SIZES))
    press(browser, Keys.ARROW_LEFT)
    back = browser.execute_script(SIZES)
    address = browser.execute_script("return location.hash")
    press(browser, Keys.ESCAPE)
    left = browser.execute_script(SIZES)
    press(browser, "s")
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    on_paper = browser.execute_script(SIZES)["seen"]
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
    browser.get("about:blank")
    browser.get(f"file://{page}#tanh{address[1:]}")
    opened = browser.execute_script(SIZES)
    return {"slides": seen, "back": back, "page": left, "address": address, "opened": opened,
            "on_paper": on_paper}


def large(browser, page, folder):
    """A large window, and a small one again."""
    window(browser, 1920, 1080)
    browser.execute_script("goToStage('forward'); goTo(8); window.dispatchEvent(new Event('resize'))")
    seen = {"large": browser.execute_script(SIZES)}
    seen["places"] = browser.execute_script("""
      const at = id => document.getElementById(id).getBoundingClientRect();
      return {desk: [at("desk").left, at("desk").top], network: [at("network").left, at("network").top], end: at("network").right};""")
    window(browser, 1280, 800)
    browser.execute_script("window.dispatchEvent(new Event('resize'))")
    seen["small"] = browser.execute_script(SIZES)
    seen["typing"] = browser.execute_script("""
      const field = document.querySelector("#network p input");
      field.focus();
      window.dispatchEvent(new Event("resize"));
      return document.activeElement === field && field.isConnected;""")
    return seen


def phone(browser, page, folder):
    """On a phone: no stage scrolls sideways, and what is pressed is large enough (WCAG 2.2, 2.5.8)."""
    window(browser, 390, 844, True)
    seen = []
    for at in range(0, browser.execute_script("return minibatch().walk.length"), 3):
        seen.append(browser.execute_script("""
          goTo(arguments[0]);
          const small = [...document.querySelectorAll("button, select, summary, input[type=range]")].filter(each => {
            const {width, height} = each.getBoundingClientRect();
            return width > 0 && !each.closest("#sheet") && Math.min(width, height) < 24;
          });
          return {wide: [document.documentElement.scrollWidth, innerWidth], small: small.map(each => each.outerHTML.slice(0, 80))};""", at))
    return seen


main(globals())
