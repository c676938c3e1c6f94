#!/usr/bin/env python3
"""Which file includes which: whether the modules keep their order, and who sees a file.

includes.py check [FOLDER]     fails where a file includes one of a module below its own, or a
                               library that other files have to themselves
includes.py users FILE…        the sources that see one of these files, directly or not
"""
import pathlib
import re
import sys

# Libraries that only some files may see, as they cost every file a lot of compiling.
ONLY_IN = {
    "Eigen/": r"src/tensor/|bench/",
    "CLI/": r"src/tools/run\.cpp",
    "nlohmann/json.hpp": r"src/(files|lessons|show|tools|\w+/around)/|bench/",
    "toml++/": r"src/lessons/lesson\.cpp",
}

# The one file of the command that names the subjects.
SUBJECT_LIST = "src/tools/subjects.cpp"

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

    def modules(self):
        """The modules in order, each with its group, as the table of CONTRIBUTING.md has them."""
        text = (self.root / "CONTRIBUTING.md").read_text(encoding="utf-8")
        group = ""
        modules = {}
        for first, module in re.findall(r"^\| *(\w*) *\| `(\w+)/` \|", text, re.MULTILINE):
            group = first or group
            modules[module] = group
        return modules


def module_of(path):
    parts = path.split("/")
    at = {"include": 2, "src": 1}.get(parts[0])
    return parts[at] if at and len(parts) > at + 1 else None


def is_around(path):
    """Whether a file of a subject may use the modules around the core."""
    return "/around/" in path


def trouble_with(path, seen, modules):
    """Why a file may not include another one; None where it may."""
    own, other = module_of(path), module_of(seen)
    if own is None or other is None or own == other:
        goes_out = own and own == other and is_around(seen) and not is_around(path)
        return f"the mathematics of {own}/ uses the core only" if goes_out else None
    groups = modules[own], modules[other]
    if groups == ("command", "subject"):
        return None if path == SUBJECT_LIST else f"only {SUBJECT_LIST} names subjects"
    if groups[0] == "subject":
        allowed = ("core", "around") if is_around(path) else ("core",)
        return None if groups[1] in allowed else f"{own}/ may use {' and '.join(allowed)} only"
    order = list(modules)
    if groups[1] == "subject" or order.index(other) > order.index(own):
        return f"{other}/ stands below {own}/"
    return None


def check(root):
    tree = Tree(root)
    modules = tree.modules()
    wrong = []
    for path, names in tree.includes.items():
        module = module_of(path)
        if module is not None and module not in modules:
            wrong.append(f"{path}: CONTRIBUTING.md knows no module {module}/")
            continue
        for name in names:
            seen = tree.found(name)
            if seen and (module_of(seen) is None or module_of(seen) in modules):
                trouble = trouble_with(path, seen, modules)
                if trouble:
                    wrong.append(f"{path} includes {name}: {trouble}")
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
