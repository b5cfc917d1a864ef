"""What keeps the tree easy to find one's way in."""

from pathlib import Path

ROOT = Path(__file__).parents[1]
MOST_LINES = 500


def test_no_file_grows_past_what_one_can_hold_in_the_head() -> None:
    sources = [*ROOT.glob("src/**/*.py"), *ROOT.glob("web/src/**/*.ts*"), *ROOT.glob("tests/**/*.py")]
    long = {
        path.name: lines
        for path in sources
        if path.name != "schema.ts" and (lines := len(path.read_text().splitlines())) > MOST_LINES
    }
    assert long == {}


def test_every_module_of_the_core_is_imported_by_a_test() -> None:
    tests = "\n".join(path.read_text() for path in ROOT.glob("tests/**/*.py"))
    core = ROOT / "src/ripe_press/core"
    names = [path.stem for path in core.rglob("*.py") if not path.stem.startswith("_")]
    assert [name for name in names if f".{name} import" not in tests and f"import {name}" not in tests] == []
