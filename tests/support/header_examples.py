"""header_examples.py OUT HEADER…: writes a source file in which the examples of the headers, the
blocks between @code and @endcode, are functions of a Reader: what is copied has to compile.

`…` stands for what a reader has of his own.
"""
import pathlib
import re
import sys

BLOCK = re.compile(r"^[ \t]*/// @code\n(.*?)^[ \t]*/// @endcode$", re.DOTALL | re.MULTILINE)
COMMENT = re.compile(r"^[ \t]*/// ?", re.MULTILINE)


def examples(header):
    text = header.read_text()
    for block in BLOCK.finditer(text):
        line = text.count("\n", 0, block.start()) + 2
        code = COMMENT.sub("", block.group(1)).rstrip()
        yield line, code.replace("…\n", "teach();\n") if "\n" in code else code.replace("…", "teach();")


def main():
    out, *headers = map(pathlib.Path, sys.argv[1:])
    pieces = ['#include "support/header_examples.hpp"\n\nnamespace lattice::testing {\n']
    for header in headers:
        for line, code in examples(header):
            pieces.append(f"struct {header.stem}_{line} : Reader {{\nvoid read() {{\n"
                          f"#line {line} \"{header}\"\n{code}\n;}}\n}};\n")
    pieces.append("}  // namespace lattice::testing\n")
    out.write_text("\n".join(pieces))


main()
