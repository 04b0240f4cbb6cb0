#!/usr/bin/env python3
"""Checks what the house promises (docs/architecture.md): includes go one way, SQL stays in store/, and no file grows
beyond bounds. Prints every offence with its line; exit code 1 where there is one.

usage: check_structure.py FOLDER
"""
import pathlib
import re
import sys

# Each folder may include itself and those named. The nearest entry above a file counts.
MAY_INCLUDE = {
    "core": [],
    "store": ["core"],
    "source": ["core", "store"],
    # Expressions read golden limits, and limits hold conditions about runs, which are expressions: the one cycle.
    "work/base": ["core", "store", "work/limits"],
    "work/settings": ["core", "store"],
    "work/runs": ["core", "store", "work/base"],
    "work/limits": ["core", "store", "work/base", "work/runs"],
    "work/derived": ["core", "store", "work/base"],
    "work/survey": ["core", "store", "work/base", "work/runs", "work/derived"],
    "work/mend": ["core", "store", "work/base", "work/derived"],
    "work/causes": ["core", "store", "work/base", "work/limits", "work/mend"],
    "work/prove": ["core", "store", "work/base", "work/derived", "work/label"],
    "work/label": ["core", "store", "source", "work/base"],
    "work/report": ["core", "store", "work/base", "work/limits", "work/mend", "work/prove"],
    "work": ["core", "store", "source", "work"],
    "zoo": ["core"],
    "demo": ["core", "store", "source"],
    "cli": ["core", "store", "source", "work", "demo"],
    "app/base": ["core", "store", "source", "work"],
    "app/plot": ["core", "store", "work", "app/base"],
    "app/language": ["core", "store", "work", "app/base", "app/plot"],
    "app/survey": ["core", "store", "work", "app/base", "app/plot", "app/language"],
    "app/mend": ["core", "store", "work", "app/base", "app/plot", "app/language"],
    "app/screen": ["core", "store", "work", "app/base", "app/plot", "app/language"],
    "app/label": ["core", "store", "work", "app/base", "app/plot", "app/language"],
    "app/prove": ["core", "store", "work", "app/base", "app/plot", "app/language"],
    "app/window": ["core", "store", "source", "work", "demo", "app"],
    "app": ["core", "store", "source", "work", "demo", "app"],
}
LONGEST_FILE = 500
LONGEST_FUNCTION = 80
# Tables that are one function: nothing is gained by cutting them.
MAY_BE_LONG = {"core/expr/functions.cpp": "functions"}
SQL = re.compile(r"sqlite3|store/(study_)?database\.h|\bSELECT\b|\bINSERT INTO\b|\bUPDATE \w+ SET\b|\bDELETE FROM\b")
NAME_COMPARED = re.compile(r'text [!=]= "')
STEP = re.compile(r"\bstudy(_|\(\))?(\.|->)change\(|\bchangeWithSamples\(|\bchangeDerived\(")
MAY_COMPARE = {"core/expr/parse.cpp", "core/expr/tokenize.cpp", "core/expr/complete.cpp"}


def layer_of(path):
    return next((l for l in sorted(MAY_INCLUDE, key=len, reverse=True) if path.startswith(l + "/")), None)


def functions_in(lines):
    """First line, name and length of what is defined at the outermost level or in a class there. Relies on
    clang-format's indents."""
    number = 0
    while number < len(lines):
        line = lines[number]
        indent = len(line) - len(line.lstrip())
        opens = line.endswith("{") and indent in (0, 4)
        if opens and not re.match(r"\s*(namespace|class|struct|enum|union|extern|if|for|while|switch|else|do)\b", line):
            end = number + 1
            if line.lstrip().startswith(":"):  # a constructor's initializers, one indent in
                indent -= 4
            while end < len(lines) and not lines[end].startswith(" " * indent + "}"):
                end += 1
            name = re.search(r"([\w~]+)\(", line)
            yield number + 1, name.group(1) if name else "", end - number + 1
            number = end
        number += 1


def offences_in(path, lines):
    layer = layer_of(path)
    if len(lines) > LONGEST_FILE:
        yield f"{path}: {len(lines)} lines; {LONGEST_FILE} is the most"
    for number, name, length in functions_in(lines):
        if length > LONGEST_FUNCTION and MAY_BE_LONG.get(path) != name:
            yield f"{path}:{number}: {name} has {length} lines; {LONGEST_FUNCTION} is the most"
    for number, line in enumerate(lines, 1):
        where = f"{path}:{number}"
        include = re.match(r'#include "([^"]+)"', line)
        target = layer_of(include.group(1)) if include else None
        is_test = path.endswith(("_test.cpp", "_fixture.h"))
        if layer and target and target != layer and not is_test:
            if not any(target == l or target.startswith(l + "/") for l in MAY_INCLUDE[layer]):
                yield f"{where}: {layer} may not include {include.group(1)}"
        if layer and layer != "store" and not is_test and SQL.search(line):
            yield f"{where}: SQL outside store/"
        if layer and layer.split("/")[0] in ("app", "cli") and STEP.search(line):
            yield f"{where}: an undoable step belongs in work/, where window and command line share it"
        if path.startswith("core/expr/") and path not in MAY_COMPARE and not is_test and NAME_COMPARED.search(line):
            yield f"{where}: a name is compared as text; use the row of core/expr/functions.cpp"


def main(root):
    found = []
    for folder in sorted({l.split("/")[0] for l in MAY_INCLUDE} | {"test", "bench", "fuzz"}):
        for file in sorted((root / folder).rglob("*")):
            if file.suffix in (".h", ".cpp"):
                path = file.relative_to(root).as_posix()
                found += offences_in(path, file.read_text().splitlines())
    print("\n".join(found) if found else "The structure holds.")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main(pathlib.Path(sys.argv[1])))
