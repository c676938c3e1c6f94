"""Asks a model file about the rows of a CSV file, with nothing but Python's own modules.

ask_model.py MODEL TABLE: prints the probability of each class for each row, as JSON.
Knows dense, tanh and a softmax at the end, which is all that its test needs.
"""

import csv
import json
import math
import sys

with open(sys.argv[1]) as file:
    model = json.load(file)
with open(sys.argv[2], newline="") as file:
    rows = list(csv.DictReader(file))

weights = model["network"]["weights"]
answers = []
for row in rows:
    x = []
    for column in model["columns"]:
        if "words" in column:
            x += [1.0 if row[column["name"]].strip() == word else 0.0 for word in column["words"]]
        else:
            x.append(float(row[column["name"]]))
    for step in model["preparation"]:
        x = [(number - c) / s for number, c, s in zip(x, step["centre"], step["divisor"])]
    for part in ("hidden", "output"):
        columns = zip(*weights[part + ".weight"])
        x = [
            sum(number * w for number, w in zip(x, column)) + b
            for column, b in zip(columns, weights[part + ".bias"])
        ]
        if part == "hidden":
            x = [math.tanh(number) for number in x]
    powers = [math.exp(score - max(x)) for score in x]
    answers.append({name: p / sum(powers) for name, p in zip(model["target"]["classes"], powers)})
print(json.dumps(answers))
