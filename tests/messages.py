"""Every message that a user can meet, gathered from the code: what is raised as trouble, what the strip says.

python -m tests.messages    writes the list, docs/MESSAGES.md
"""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import oat_tide

SOURCE = Path(oat_tide.__file__).parent
LIST = Path(__file__).parent.parent / "docs" / "MESSAGES.md"
_RAISED = {"UserError", "Locked", "Unasked"}
_SAID = {"say", "ask", "show_progress"}
_WRITTEN_FIRST = (
    "# Messages\n\nEvery message that the window or the command line can give, by the part of the code that "
    "gives it. `…` stands for the file, row, column or value that it names. Written by "
    "`python -m tests.messages`; a test holds it against the code, and each message that tells of trouble to "
    "saying what is wrong, where, and what to do.\n"
)
_PUT_IN = re.compile(r"\{[^{}]*(?:\{[^{}]*\}[^{}]*)*\}")
_DOES = (
    *(
        "add",
        "ask",
        "check",
        "choose",
        "delete",
        "export",
        "give",
        "install",
        "leave",
        "make",
        "mend",
        "name",
        "open",
    ),
    *("put", "save", "set", "take", "total", "try", "undo", "free", "update", "use", "write"),
)
_TO_DO = re.compile(rf"(?:^|[.;:,–] |\bor |\band )(?:{'|'.join(_DOES)})\b", re.I)
_NAMED = re.compile(r"…|“|--|\d|\b(?:spread|query|address|source|database|ratio|figures|cell|display)\b")
_MOST_SAID = 820
_TELLTALE = re.compile(r"Traceback|<class |object at 0x|\b(?:Value|Key|Type|Index|Attribute|Compute)Error\b")


@dataclass(frozen=True, slots=True, order=True)
class Message:
    """One message.

    Attributes:
        module: where it stands, as a path from the package.
        text: its words; … is what is put in.
        trouble: whether something is to be mended.
    """

    module: str
    text: str
    trouble: bool

    @property
    def faults(self) -> list[str]:
        """What it lacks: what is wrong and where, and what to do."""
        if not self.trouble:
            return []
        # What is passed on has been a message before.
        passed_on = self.text.endswith("…") or self.text.endswith("… Nothing was written.")
        lacks = [] if passed_on or _TO_DO.search(self.text) else ["what to do"]
        lacks += [] if _NAMED.search(self.text) else ["where"]
        return lacks + ([] if passed_on or self.text.endswith(".") else ["its end"])


def gathered() -> list[Message]:
    """All messages, in the order of their modules."""
    found: set[Message] = set()
    for path in sorted(SOURCE.rglob("*.py")):
        tree = ast.parse(path.read_text())
        module = str(path.relative_to(SOURCE).with_suffix(""))
        for call, within in _calls(tree):
            name = call.func.id if isinstance(call.func, ast.Name) else getattr(call.func, "attr", "")
            of_strip = isinstance(call.func, ast.Attribute) and "strip" in ast.unparse(call.func.value)
            if not call.args or not (name in _RAISED or (name in _SAID and of_strip)):
                continue
            for text in _of_phrase(call, within, tree):
                words = _PUT_IN.sub("…", text)
                if re.search(r"\w", words):
                    found.add(Message(module, words, name in _RAISED))
    return sorted(found)


def listed(messages: list[Message]) -> str:
    """The list of messages, as it is written."""
    parts, last = [_WRITTEN_FIRST], ""
    for each in messages:
        if each.module != last:
            parts.append(f"\n## {each.module}\n\n")
            last = each.module
        parts.append(f"- {each.text}\n")
    return "".join(parts)


def _calls(tree: ast.Module) -> Iterator[tuple[ast.Call, ast.AST]]:
    """Every call with the function that it stands in."""

    def within(node: ast.AST, function: ast.AST) -> Iterator[tuple[ast.Call, ast.AST]]:
        for child in ast.iter_child_nodes(node):
            own = child if isinstance(child, ast.FunctionDef) else function
            if isinstance(child, ast.Call):
                yield child, own
            yield from within(child, own)

    return within(tree, tree)


def _texts(node: ast.expr, within: ast.AST, tree: ast.Module) -> list[str]:
    """What an expression can say: its own words, or those of the name or function that it stands for."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return [node.value]
    if isinstance(node, ast.JoinedStr):
        texts = [""]
        for part in node.values:
            own = ["{}"] if isinstance(part, ast.FormattedValue) else _texts(part, within, tree)
            texts = [text + each for text in texts for each in own]
        return texts
    if isinstance(node, ast.BinOp):
        return [a + b for a in _texts(node.left, within, tree) for b in _texts(node.right, within, tree)]
    if isinstance(node, ast.IfExp):
        return [*_texts(node.body, within, tree), *_texts(node.orelse, within, tree)]
    if isinstance(node, ast.Name):
        for scope in (within, tree):
            values = _assigned(scope, node.id)
            if values:
                return [text for value in values for text in _texts(value, within, tree)]
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "phrase":
        return _of_phrase(node, within, tree)
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        for each in ast.walk(tree):
            if isinstance(each, ast.FunctionDef) and each.name == node.func.id and _gives_text(each):
                returned = [own.value for own in ast.walk(each) if isinstance(own, ast.Return) and own.value]
                return [text for value in returned for text in _texts(value, each, tree)]
    return ["{}"]


def _of_phrase(call: ast.Call, within: ast.AST, tree: ast.Module) -> list[str]:
    """What a phrase can say, with what stands in its places where that is a text of the code."""
    texts = _texts(call.args[0], within, tree)
    for word in call.keywords:
        own = {each for each in _texts(word.value, within, tree) if re.search(r"[^\W\d]", each)}
        if own:
            texts = [text.replace(f"{{{word.arg}}}", each) for text in texts for each in ("{}", *sorted(own))]
    return texts


def _gives_text(function: ast.FunctionDef) -> bool:
    return isinstance(function.returns, ast.Name) and function.returns.id == "str"


def _assigned(scope: ast.AST, name: str) -> list[ast.expr]:
    """The words that are assigned to a name."""
    found: list[ast.expr] = []
    for each in ast.walk(scope):
        if isinstance(each, ast.Assign) and any(
            isinstance(t, ast.Name) and t.id == name for t in each.targets
        ):
            value = each.value
            text = isinstance(value, ast.Constant) and isinstance(value.value, str)
            phrased = isinstance(value, ast.Call) and ast.unparse(value.func) == "phrase"
            if text or phrased or isinstance(value, ast.JoinedStr | ast.BinOp):
                found.append(value)
    return found


def judged(text: str) -> None:
    """Raises AssertionError for a message that would not help."""
    assert text.strip(), "a message that says nothing"
    assert len(text) <= _MOST_SAID, f"{len(text):,} characters: {text[:200]!r}"
    assert "\n" not in text.strip(), f"a message of several lines: {text!r}"
    assert not _TELLTALE.search(text), f"a message for programmers: {text!r}"
    assert text.rstrip().endswith((".", "?", ")")), f"a message that breaks off: {text!r}"


if __name__ == "__main__":
    LIST.write_text(listed(gathered()))
