"""fail_everywhere.py LIBRARY KIND TRIALS -- COMMAND…: counts what a command asks of the machine (KIND:
ALLOCATION or WRITE), then runs it again and again in a folder of its own, each time with another of
these failing: TRIALS of them spread over all of its work, or all where there are fewer. Prints as JSON
what did not end as it should: with one clear error and status 2 or 3, or with all its work done, and
nothing half written either way.
"""
import json
import os
import subprocess
import sys
import tempfile
import zipfile
from concurrent.futures import ThreadPoolExecutor


def judge(answer, folder):
    """What is wrong with an answer; nothing when all is well."""
    said = answer.stderr.decode(errors="replace")
    left = [name for name in os.listdir(folder) if ".part" in name or name.startswith("lattice-")]
    passing = os.listdir(os.path.join(folder, "tmp"))
    # A model that could not be saved where it was to be may be there.
    passing = [name for name in passing if "rescued" not in name]
    if left or passing:
        return f"left behind: {left + passing}"
    if answer.returncode not in (0, 2, 3):
        return f"status {answer.returncode}"
    if answer.returncode != 0 and not said.strip():
        return "not a word"
    if any(word in said for word in ("json.exception", "bad_alloc", "what()", "std::", "Success")):
        return "words of a library"
    for name in os.listdir(folder):
        path = os.path.join(folder, name)
        if name.endswith((".lattice", ".json")):
            with open(path, encoding="utf-8") as file:
                try:
                    json.load(file)
                except ValueError:
                    return f"{name} is half written"
        elif name.endswith(".xlsx"):
            if not zipfile.is_zipfile(path) or zipfile.ZipFile(path).testzip():
                return f"{name} is half written"
        elif name.endswith(".html"):
            with open(path, encoding="utf-8") as file:
                if not file.read().rstrip().endswith("</html>"):
                    return f"{name} is half written"
    return None


def main():
    library, kind, most = sys.argv[1:4]
    command = sys.argv[5:]

    def run(folder, **settings):
        os.mkdir(os.path.join(folder, "tmp"))
        environment = dict(os.environ, LD_PRELOAD=library, TMPDIR=os.path.join(folder, "tmp"),
                           HOME=os.path.join(folder, "tmp"), PWD=os.path.join(folder, "tmp"),
                           **settings)
        return subprocess.run(command, cwd=folder, env=environment, capture_output=True,
                              timeout=120, check=False)

    def asked():
        with tempfile.TemporaryDirectory() as folder, tempfile.NamedTemporaryFile("r") as tally:
            run(folder, FAIL_TALLY=tally.name)
            return int(tally.read().split()[["ALLOCATION", "WRITE"].index(kind)])

    def trial(number):
        with tempfile.TemporaryDirectory() as folder:
            answer = run(folder, **{f"FAIL_{kind}": str(number)})
            return number, answer.returncode, judge(answer, folder), answer.stderr.decode(
                errors="replace")

    count = asked()
    trials = min(int(most), count)
    numbers = [1 + index * count // trials for index in range(trials)]
    with ThreadPoolExecutor(max_workers=2) as at_once:
        trials = list(at_once.map(trial, numbers))
    statuses = [status for _, status, _, _ in trials]
    json.dump({"asked": count, "trials": len(trials),
               "refused": sum(1 for status in statuses if status in (2, 3)),
               "done": statuses.count(0),
               "wrong": [{"number": number, "wrong": wrong, "said": said[-400:]}
                         for number, _, wrong, said in trials if wrong]}, sys.stdout)


main()
