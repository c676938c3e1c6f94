"""recalculate.py JOBS: opens spreadsheets in LibreOffice and calculates every formula anew.

JOBS is a JSON file: a list of {"file": path, "changes": {"sheet!cell": number, …}}. Printed is a
list with an object for each: for each sheet, its rows of cells as [what the file says, what was
calculated after the changes], or a text. With "type": {"sheet!cell": [number, …], …} each number
is typed into the cell in turn, and "judged" tells which of the cell's colouring rules then hold.
"""
import html
import json
import os
import re
import subprocess
import sys
import tempfile
import time
import zipfile

sys.path.append("/usr/lib/python3/dist-packages")
import uno  # noqa: E402
from com.sun.star.beans import PropertyValue  # noqa: E402


def connect(folder):
    pipe = f"lattice{os.getpid()}"
    office = subprocess.Popen(
        ["soffice", "--headless", "--norestore", "--nologo", "--nodefault",
         f"-env:UserInstallation=file://{folder}", f"--accept=pipe,name={pipe};urp;"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    resolver = uno.getComponentContext().ServiceManager.createInstance(
        "com.sun.star.bridge.UnoUrlResolver")
    for _ in range(1200):
        try:
            context = resolver.resolve(f"uno:pipe,name={pipe};urp;StarOffice.ComponentContext")
            return office, context.ServiceManager.createInstanceWithContext(
                "com.sun.star.frame.Desktop", context)
        except Exception:  # it is still starting
            time.sleep(0.1)
    office.kill()
    sys.exit("LibreOffice did not start")


def used(sheet):
    cursor = sheet.createCursor()
    cursor.gotoEndOfUsedArea(False)
    address = cursor.RangeAddress
    return sheet.getCellRangeByPosition(0, 0, address.EndColumn, address.EndRow)


def pairs(before, after):
    return [[[a, b] if isinstance(a, float) or isinstance(b, float) else b for a, b in zip(*rows)]
            for rows in zip(before, after)]


def colouring_rules(path, sheet_number, cell):
    """The formulas of a cell's conditional formats, as the file has them."""
    with zipfile.ZipFile(path) as book:
        sheet = book.read(f"xl/worksheets/sheet{sheet_number}.xml").decode()
    blocks = re.findall(rf'<conditionalFormatting sqref="{cell}">(.*?)</conditionalFormatting>', sheet)
    return [html.unescape(rule) for block in blocks
            for rule in re.findall(r"<formula>(.*?)</formula>", block)]


def judged(book, path, where, numbers):
    name, cell = where.split("!")
    sheet = book.Sheets.getByName(name)
    rules = colouring_rules(path, list(book.Sheets.ElementNames).index(name) + 1, cell)
    spare = sheet.getCellRangeByName("ZZ1")
    answers = []
    for number in numbers:
        sheet.getCellRangeByName(cell).setValue(number)
        held = []
        for rule in rules:
            spare.setFormula("=" + rule.replace("!", ".").replace(",", ";"))
            held.append(bool(spare.getValue()))
        answers.append(held)
    spare.setFormula("")
    sheet.getCellRangeByName(cell).setFormula("")
    return answers


def recalculated(desktop, job):
    hidden = PropertyValue()
    hidden.Name, hidden.Value = "Hidden", True
    book = desktop.loadComponentFromURL("file://" + os.path.abspath(job["file"]), "_blank", 0,
                                        (hidden,))
    said = {sheet.Name: used(sheet).getDataArray() for sheet in book.Sheets}
    for where, number in job.get("changes", {}).items():
        name, cell = where.split("!")
        book.Sheets.getByName(name).getCellRangeByName(cell).setValue(number)
    book.calculateAll()
    answer = {sheet.Name: {"cells": pairs(said[sheet.Name], used(sheet).getDataArray()),
                           "formulas": sum(text.startswith("=") for row in
                                           used(sheet).getFormulaArray() for text in row)}
              for sheet in book.Sheets}
    if "type" in job:
        answer["judged"] = {where: judged(book, job["file"], where, numbers)
                            for where, numbers in job["type"].items()}
    book.close(True)
    return answer


def main():
    with open(sys.argv[1]) as file:
        jobs = json.load(file)
    with tempfile.TemporaryDirectory() as folder:
        office, desktop = connect(folder)
        try:
            json.dump([recalculated(desktop, job) for job in jobs], sys.stdout)
        finally:
            try:
                desktop.terminate()
            except Exception:  # it is gone already
                pass
            office.wait(timeout=60)


main()
