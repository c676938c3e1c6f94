"""The browser that pages are used in, and what is asked of its pages more than once."""
import json
import sys
import tempfile

sys.path.append("/usr/lib/python3/dist-packages")
from selenium import webdriver  # noqa: E402
from selenium.webdriver.common.utils import is_connectable  # noqa: E402


class Driver(webdriver.chrome.service.Service):
    """The browser's driver, by the address of this machine: its name may not be known here."""

    @property
    def service_url(self):
        return f"http://127.0.0.1:{self.port}"

    def is_connectable(self):
        return is_connectable(self.port, "127.0.0.1")


def start(folder):
    options = webdriver.ChromeOptions()
    for flag in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage",
                 f"--user-data-dir={folder}", "--window-size=1280,800"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
    return webdriver.Chrome(service=Driver("/usr/bin/chromedriver"), options=options)


# Each drawing of the run: its title, its legend, and how many points each of its curves has.
CURVES = """
  return [...document.querySelectorAll("#run svg, #curves svg")].map(drawing => ({
    title: drawing.getAttribute("aria-label"),
    words: [...drawing.querySelectorAll("text")].map(each => each.textContent),
    points: Object.fromEntries([...drawing.querySelectorAll("path.line")].map(each =>
      [each.getAttribute("class").split(" ")[1], each.getAttribute("d").split("L").length])),
  }));
"""


def main(functions):
    """PAGE WHAT: opens a page, and prints as JSON what the function of that name saw on it, and the console."""
    page, what = sys.argv[1:]
    with tempfile.TemporaryDirectory() as folder:
        browser = start(folder)
        try:
            browser.get(f"file://{page}")
            seen = {"seen": functions[what](browser, page, folder)}
            seen["console"] = [each["message"] for each in browser.get_log("browser")]
            json.dump(seen, sys.stdout)
        finally:
            browser.quit()
