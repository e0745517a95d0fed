"""The glossary holds: its names exist, and no screen uses a word that it rules out."""

import ast
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from django.conf import settings

ROOT = Path(settings.BASE_DIR)
PACKAGES = [path.parent for path in ROOT.glob("*/__init__.py")]
# Not on screen: faults of the scenario file speak of its keys, and reports go to the log.
FOR_DEVELOPERS = ("engine/files/scenario_file.py", "engine/burst/result.py", "ondata/settings.py")
TAG = re.compile(r"{%.*?%}|{{.*?}}", re.DOTALL)
SPOKEN = re.compile(r'(?:aria-label|placeholder|title|label)="([^"]*)"')
SAID_BY_SCRIPTS = re.compile(r'"[^"\n]*"|`[^`]*`')
MARKUP = re.compile(r"<[^>]*>")


def rows() -> list[list[str]]:
    lines = (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8").splitlines()
    return [[cell.strip() for cell in line.strip("|").split("|")]
            for line in lines if line.startswith("| ") and "on screen |" not in line]  # fmt: skip


def sources(pattern: str) -> Iterator[Path]:
    for package in PACKAGES:
        for path in package.rglob(pattern):
            name = path.relative_to(ROOT).as_posix()
            if "/tests/" not in name and "/migrations/" not in name and name not in FOR_DEVELOPERS:
                yield path


def spoken() -> Iterator[tuple[str, str]]:
    """Every sentence that may reach a screen, with where it stands."""
    for path in (*sources("*.html"), *sources("*.txt"), *sources("*.svg")):
        text = TAG.sub(" ", path.read_text(encoding="utf-8"))
        yield path.name, " ".join((*SPOKEN.findall(text), MARKUP.sub(" ", text)))
    for path in (ROOT / "assets" / "scripts").glob("*.js"):
        code = re.sub(r"^\s*//.*$", "", path.read_text(encoding="utf-8"), flags=re.MULTILINE)
        yield path.name, " ".join(said for said in SAID_BY_SCRIPTS.findall(code) if " " in said)
    for path in sources("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        docstrings = {
            id(node.body[0].value)
            for node in ast.walk(tree)
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
            and node.body and isinstance(node.body[0], ast.Expr)
        }  # fmt: skip
        for node in ast.walk(tree):
            if not isinstance(node, ast.Constant) or id(node) in docstrings:
                continue
            if isinstance(node.value, str) and " " in node.value:
                yield f"{path.relative_to(ROOT)}:{node.lineno}", node.value


class Glossary(TestCase):
    def test_no_screen_uses_a_word_that_is_ruled_out(self) -> None:
        banned = [word for row in rows() for word in row[5].split(", ") if word]
        self.assertGreater(len(banned), 20)
        found = re.compile(rf"\b(?:{'|'.join(map(re.escape, banned))})\b", re.IGNORECASE)
        said = [(place, hit[0]) for place, text in spoken() if (hit := found.search(text))]
        self.assertEqual([], said)

    def test_the_names_exist(self) -> None:
        code = "\n".join(path.read_text(encoding="utf-8") for path in sources("*.py"))
        formats = (ROOT / "docs" / "formats.md").read_text(encoding="utf-8")
        for row in rows():
            for where, cell in ((code, row[3]), (formats, row[4])):
                for name in re.findall(r"`(\w+)`", cell):
                    with self.subTest(name):
                        self.assertRegex(where, rf"\b{name}\b")

    def test_what_contributing_names_exists(self) -> None:
        text = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
        modules = [path for package in PACKAGES for path in package.rglob("*.py")]
        code = "\n".join(path.read_text(encoding="utf-8") for path in modules)
        files = {path.name for path in ROOT.rglob("*.*") if "node_modules" not in path.parts}
        for name in set(re.findall(r"`([\w/]+\.\w+|_?[a-z]+_\w+|[A-Z][a-z]\w+)`", text)):
            with self.subTest(name):
                last = re.split(r"[./]", name)[-1]
                exists = (ROOT / name).exists() or Path(name).name in files
                self.assertTrue(exists or re.search(rf"\b{last}\b", code))

    def test_each_class_has_a_name_of_its_own(self) -> None:
        classes = Counter(
            name
            for path in sources("*.py")
            for name in re.findall(r"^class (\w+)", path.read_text(encoding="utf-8"), re.MULTILINE)
        )
        del classes["Command"]  # of Django's commands
        self.assertEqual([], [name for name, times in classes.items() if times > 1])
