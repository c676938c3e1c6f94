"""check_schema.py SCHEMA DOCUMENT: status 0 when a JSON document is as its schema says."""

import json
import sys

import jsonschema

with open(sys.argv[1]) as file:
    schema = json.load(file)
with open(sys.argv[2]) as file:
    document = json.load(file)
jsonschema.Draft202012Validator.check_schema(schema)
errors = list(jsonschema.Draft202012Validator(schema).iter_errors(document))
for error in errors[:5]:
    print(error.json_path, error.message[:200])
sys.exit(1 if errors else 0)
