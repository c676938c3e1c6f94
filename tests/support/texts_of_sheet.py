"""texts_of_sheet.py BOOK: the texts and the formulas of a spreadsheet as JSON, read with nothing but
Python's own modules: an archive that is whole, of documents that are XML.
"""
import json
import sys
import zipfile
from xml.etree import ElementTree

SPACE = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"

texts, formulas = [], []
with zipfile.ZipFile(sys.argv[1]) as book:
    if book.testzip():
        sys.exit("the archive is broken")
    for name in book.namelist():
        if not name.endswith(".xml"):
            continue
        root = ElementTree.fromstring(book.read(name))
        texts += ["".join(item.itertext()) for item in root.iter(SPACE + "si")]
        formulas += [formula.text for formula in root.iter(SPACE + "f")]
json.dump({"texts": texts, "formulas": formulas, "longest": max(map(len, texts), default=0)},
          sys.stdout)
