#!/usr/bin/env python3
"""Which file includes which: whether the rooms of the house keep their order, and who sees a file.

includes.py check [FOLDER]     fails where a file includes one of a room below its own, or a library
                               that other files have to themselves
includes.py users FILE…        the sources that see one of these files, directly or not
"""
import pathlib
import re
import sys

# Libraries that only some files may see, as they cost every file a lot of compiling.
ONLY_IN = {
    "Eigen/": r"src/tensor/|bench/",
    "CLI/": r"src/tools/run\.cpp",
    "nlohmann/json.hpp": r"src/(files|lessons|show|tools)/|bench/",
    "toml++/": r"src/lessons/lesson\.cpp",
}
INCLUDE = re.compile(r'^\s*#\s*include\s*["<]([^">]+)[">]', re.MULTILINE)


class Tree:
    def __init__(self, root):
        self.root = pathlib.Path(root)
        self.includes = {}
        for folder in ("include", "src", "examples", "bench", "demo"):
            for path in sorted(self.root.glob(f"{folder}/**/*.[ch]pp")):
                text = path.read_text(encoding="utf-8")
                self.includes[path.relative_to(self.root).as_posix()] = INCLUDE.findall(text)

    def found(self, name):
        """The file of ours that an include names; None for those of libraries."""
        for place in (f"include/{name}", f"src/{name}", f"bench/{name}"):
            if place in self.includes:
                return place
        return None

    def rooms(self):
        """In order, as the table of CONTRIBUTING.md has them."""
        text = (self.root / "CONTRIBUTING.md").read_text(encoding="utf-8")
        return re.findall(r"^\| `(\w+)/` \|", text, re.MULTILINE)


def room_of(path):
    parts = path.split("/")
    at = {"include": 2, "src": 1}.get(parts[0])
    return parts[at] if at and len(parts) > at + 1 else None


def check(root):
    tree = Tree(root)
    rooms = tree.rooms()
    wrong = []
    for path, names in tree.includes.items():
        room = room_of(path)
        if room is not None and room not in rooms:
            wrong.append(f"{path}: CONTRIBUTING.md knows no room {room}/")
            continue
        for name in names:
            seen = tree.found(name)
            other = room_of(seen) if seen else None
            if room and other in rooms and rooms.index(other) > rooms.index(room):
                wrong.append(f"{path} includes {name}: {other}/ stands below {room}/")
            for library, allowed in ONLY_IN.items():
                if name.startswith(library) and not re.match(allowed, path):
                    wrong.append(f"{path} includes {name}: only {allowed} may")
    for line in wrong:
        print(line, file=sys.stderr)
    return 1 if wrong else 0


def users(files):
    tree = Tree(".")
    seeing = set(files)
    while True:
        more = {
            path
            for path, names in tree.includes.items()
            if path not in seeing and any(tree.found(name) in seeing for name in names)
        }
        if not more:
            break
        seeing |= more
    for path in sorted(seeing):
        if path in tree.includes and path.endswith(".cpp"):
            print(path)
    return 0


def main(words):
    if words[:1] == ["check"] and len(words) <= 2:
        return check(words[1] if len(words) == 2 else ".")
    if words[:1] == ["users"]:
        return users(words[1:])
    print(__doc__, file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
