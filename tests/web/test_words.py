"""Each word in its place: labels of controls in one table, texts in words or templates."""

import ast
import re
from pathlib import Path

from mudlamp.services.edge.controls import LABELS

SOURCE = Path(__file__).resolve().parents[2] / "src" / "mudlamp"
TABLE = SOURCE / "services" / "edge" / "controls.py"
# Whole words, as they are spelled; "aim" is English too, and stands small.
LABEL = re.compile(r"\b(" + "|".join(sorted((label for label in LABELS.values() if label != "aim"), key=len, reverse=True)) + r")\b")
# Not the control, but how wide the transducer's fan is.
OTHER = {"Fan width"}


def literals(path):
    """Yield the texts of a Python module that may come to be seen: all but docstrings."""
    tree = ast.parse(path.read_text())
    docs = {
        node.body[0].value
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
        and isinstance(node.body[0].value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in docs:
            yield node.value


def page_texts(path):
    """Yield the texts of a template or script: without comments, tags' names and what Jinja works out."""
    text = path.read_text()
    if path.suffix == ".js":
        yield from re.findall(r'"[^"\n]*"|`[^`]*`', re.sub(r"//[^\n]*", "", text))
    else:
        yield re.sub(r"\{#.*?#\}|\{\{.*?\}\}|\{%.*?%\}", "", text, flags=re.DOTALL)


def test_no_module_template_or_script_beside_the_table_spells_a_label():
    spelled = []
    for path in sorted(SOURCE.rglob("*.py")):
        if path != TABLE and "migrations" not in path.parts:
            spelled += [(path.name, text[:80]) for text in literals(path) if LABEL.search(text)]
    for path in [*(SOURCE / "web" / "templates").rglob("*.html"), *(SOURCE / "web" / "static" / "js").rglob("*.js")]:
        for text in page_texts(path):
            spelled += [(path.name, found.group()) for found in LABEL.finditer(text)]
    assert [one for one in spelled if one[1] not in OTHER] == []
