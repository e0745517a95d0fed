"""What one version of the code has kept is not read by another."""

from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.test import TestCase

from ondata.code_version import code_version
from pages.background import results
from pages.deleted import deleted


class CodeVersion(TestCase):
    def test_any_module_makes_another_one_and_no_test_does(self) -> None:
        with TemporaryDirectory() as folder:
            for place, is_new in (("a.py", True), ("b/c.py", True), ("b/tests/d.py", False)):
                before = code_version([Path(folder)])
                path = Path(folder) / place
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_text("")
                path.write_text(f"{place} = 1")
                self.assertEqual(is_new, before != code_version([Path(folder)]), place)

    def test_results_are_those_of_the_code_that_runs_and_what_was_deleted_is_anybodys(self) -> None:
        results.set("plan:x", "of another version", version="another")
        self.assertIsNone(results.get("plan:x"))
        results.set("plan:x", "of this one")
        version = settings.CACHES["results"]["VERSION"]
        self.assertEqual("of this one", results.get("plan:x", version=version))
        deleted.set("x", "row")
        self.assertEqual("row", deleted.get("x", version=1))
