"""Read what a person reads, and say where it goes back to words that were given up or on too long: python -m tests.prose.

Read are the strings and texts of the page, the files of messages and of data, and the manual. Names in code are not.
"""

import ast
import re
import sys
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

TOP = Path(__file__).resolve().parent.parent
LONGEST = 34
"""Words in a sentence of the page or a message."""
GIVEN_UP = {
    "house practice": "crew standards",
    "done otherwise here": "exceptions on this job",
    "our own book": "crew parts",
    "our own": "crew parts",
    "leave it to hydrarch": "automatic",
    "put it back": "restore",
    "put this away": "dismiss",
    "what happens if": "what-if",
    "follow it": "run simulation",
    "not taken": "not accepted",
    "two words on": "conflicting records",
    "honest way": "ways to join",
    "looks right, leaks": "looks right but leaks",
    "to see to": "problems, unfinished work",
    "see to these": "unfinished work",
    "needs mending": "error",
    "clocks that run": "cure timers",
    "to the shop": "shopping list",
    "looking what": "checking status",
    "body of water": "pond, tub or tank",
    "bodies of water": "ponds, tubs and tanks",
    "met in the ground": "existing",
    "come apart again": "serviceable",
    "stop to stop": "socket stop to socket stop",
    "what has a price": "priced parts",
    "hangs on": "is fed by",
    "comes to grief": "fails",
    "the maker's word": "the maker's chart",
}
"""What a person does not read any more, and what is written for it."""


_SQL = re.compile(r"\s*(select|insert|update|delete|create|with|pragma)\b", re.I)


class Text(NamedTuple):
    """A text somebody reads, and where it stands."""

    file: Path
    line: int
    says: str


def page() -> Iterator[Text]:
    """The page's strings and texts: what stands between quotes with a space in it, or between tags."""
    for file in sorted((TOP / "web" / "src").rglob("*.ts*")):
        if file.name == "schema.d.ts":
            continue
        code = re.sub(r"/\*.*?\*/", lambda m: "\n" * m.group().count("\n"), file.read_text("utf-8"), flags=re.S)
        code = re.sub(r"(?<![:\"'`])//[^\n]*", "", code)
        for found in re.finditer(r'"([^"\n]*)"|`([^`]*)`|>([^<>{}]+)[<{]|\}([^<>{}=;()]+)[<{]', code):
            says = " ".join(next(g for g in found.groups() if g is not None).split())
            if " " in says and not re.search(r"className|=>|&&|\?\.|\bconst\b|\w-\[", says):
                yield Text(file, code.count("\n", 0, found.start()) + 1, says)


def messages() -> Iterator[Text]:
    """What the messages say."""
    for file in sorted((TOP / "hydrarch" / "core" / "base" / "messages").glob("*.toml")):
        lines = file.read_text("utf-8").splitlines()
        for key, entry in tomllib.loads("\n".join(lines)).items():
            line = next((n for n, x in enumerate(lines, 1) if key in x and x.startswith("[")), 1)
            for part in ("title", "detail", "mend"):
                if part in entry:
                    yield Text(file, line, entry[part])


def program() -> Iterator[Text]:
    """Sentences in the program itself: steps, refusals, summaries, what the bench says. Docstrings are not."""
    for file in sorted((TOP / "hydrarch").rglob("*.py")):
        tree = ast.parse(file.read_text("utf-8"))
        docs = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr) and isinstance(n.value, ast.Constant)}
        for node in ast.walk(tree):
            if isinstance(node, ast.JoinedStr):
                says = "".join(str(v.value) if isinstance(v, ast.Constant) else "7" for v in node.values)
                docs |= {id(v) for v in node.values}
            elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs:
                says = node.value
            else:
                continue
            if len(says.split()) > 3 and not _SQL.match(says):
                yield Text(file, node.lineno, says)


def tables() -> Iterator[Text]:
    """What the files of data say: cautions, steps, practices, names."""
    for file in sorted((TOP / "hydrarch" / "core").rglob("data/*")):
        if file.suffix in (".csv", ".toml"):
            for n, line in enumerate(file.read_text("utf-8").splitlines(), 1):
                yield Text(file, n, line)


def manual() -> Iterator[Text]:
    """What the documents for people say, a line each."""
    for file in (TOP / "README.md", TOP / "docs" / "handbook.md", TOP / "docs" / "format.md"):
        for n, line in enumerate(file.read_text("utf-8").splitlines(), 1):
            yield Text(file, n, line)


def wrong(text: Text, *, whole: bool = True) -> Iterator[str]:
    """What is wrong with a text; `whole` where it is not a line of a longer one."""
    low = text.says.lower()
    for given_up, better in GIVEN_UP.items():
        if re.search(rf"\b{re.escape(given_up)}\b", low):
            yield f'"{given_up}": write "{better}"'
    if whole:
        for sentence in re.split(r"(?<=[.;:?!])\s", text.says):
            if len(sentence.split()) > LONGEST:
                yield f"{len(sentence.split())} words in a sentence: {sentence[:60]} …"


def decisions() -> Iterator[tuple[Text, str]]:
    """Records of decisions that lack one of their four parts."""
    for file in sorted((TOP / "docs" / "decisions").glob("*.md")):
        says = file.read_text("utf-8")
        for part in ("Context", "Decision", "Alternatives", "Consequences"):
            if not re.search(rf"^(\*\*{part}\b|## {part}\b)", says, re.M):
                yield Text(file, 1, ""), f"has no {part}"


def main() -> int:
    """Print each fault with its place; 0 where there is none."""
    faults = [(t, w) for t in (*page(), *messages(), *program()) for w in wrong(t)]
    faults += [(t, w) for t in (*tables(), *manual()) for w in wrong(t, whole=False)]
    faults += list(decisions())
    for text, fault in faults:
        print(f"{text.file.relative_to(TOP)}:{text.line}: {fault}")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
