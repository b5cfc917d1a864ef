"""What keeps the tree easy to find one's way in, counted in the tree itself."""

import ast
import re
from collections.abc import Iterator
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

from ripe_press.core import stations as st
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.rules.registry import IDS
from ripe_press.core.sources.source import AudioSource
from support import ROOT

SRC = ROOT / "src/ripe_press"
PAGE = ROOT / "web/src"
MOST_LINES = 400
MOST_FILES = 15
MOST_TEST_LINES = 500
STATIONS = [
    name for name in st.__all__ if isinstance(getattr(st, name), type) and issubclass(getattr(st, name), st.Station)
]


@cache
def tree(path: Path) -> ast.Module:
    return ast.parse(path.read_text())


def modules(*outside: str) -> Iterator[Path]:
    """Modules of the product, without some rooms."""
    for path in SRC.rglob("*.py"):
        if not any(path.is_relative_to(SRC / room) for room in outside):
            yield path


@cache
def imports(path: Path) -> set[tuple[str, str]]:
    """(module, name) of every import from the product itself."""
    found = {
        (node.module or "", alias.name)
        for node in ast.walk(tree(path))
        if isinstance(node, ast.ImportFrom)
        for alias in node.names
    }
    return {(module, name) for module, name in found if module.startswith("ripe_press")}


@cache
def words(path: Path) -> frozenset[str]:
    """Every text of a module as a statement of its own."""
    return frozenset(
        node.value for node in ast.walk(tree(path)) if isinstance(node, ast.Constant) and isinstance(node.value, str)
    )


def test_source_files_stay_under_400_lines() -> None:
    sources = [*SRC.rglob("*.py"), *ROOT.glob("web/src/**/*.ts*"), *ROOT.glob("tests/**/*.py")]
    long = {
        path.name: lines
        for path in sources
        if path.name != "schema.ts"
        and (lines := len(path.read_text().splitlines())) > (MOST_TEST_LINES if "tests" in path.parts else MOST_LINES)
    }
    assert long == {}


def test_no_folder_holds_more_than_15_source_files_on_one_level() -> None:
    code = (".py", ".ts", ".tsx", ".css")
    folders = [
        one for top in ("src", "web/src", "tests", "benchmarks") for one in (ROOT / top).rglob("*") if one.is_dir()
    ]
    full = {
        str(folder.relative_to(ROOT)): count
        for folder in folders
        if (count := sum(one.suffix in code and one.name != "__init__.py" for one in folder.iterdir())) > MOST_FILES
        and "static" not in folder.parts
    }
    assert full == {}


def test_every_module_of_the_core_is_imported_by_a_test() -> None:
    tests = "\n".join(path.read_text() for path in ROOT.glob("tests/**/*.py"))
    names = {path.stem for path in (SRC / "core").rglob("*.py") if not path.stem.startswith("_")}
    # Stations and pressing are tested through their packages, and rules through the registry.
    rooms = ("stations", "press", "rules/checks")
    names -= {path.stem for room in rooms for path in (SRC / "core" / room).rglob("*.py")} | {"rule"}
    assert [name for name in names if f".{name} import" not in tests and f"import {name}" not in tests] == []


@cache
def asked_about(path: Path) -> set[str]:
    """Names that a module asks `isinstance` about, or matches by."""
    found: set[str] = set()
    for node in ast.walk(tree(path)):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "isinstance":
            found |= {getattr(one, "attr", getattr(one, "id", "")) for one in ast.walk(node.args[1])}
        if isinstance(node, ast.MatchClass):
            found.add(getattr(node.cls, "attr", getattr(node.cls, "id", "")))
    return found


def test_kind_of_a_station_is_checked_only_in_its_package_and_merge() -> None:
    asked = {str(path.relative_to(SRC)): asked_about(path) & set(STATIONS) for path in modules("core/stations")}
    assert {name: kinds for name, kinds in asked.items() if kinds} == {"core/engine/tree.py": {"Codec"}}
    inside = {path.name: asked_about(path) & set(STATIONS) for path in (SRC / "core/stations").glob("*.py")}
    # A path knows whether its level is settled, and a level knows what it was settled for.
    assert {name: kinds for name, kinds in inside.items() if kinds} == {
        "path.py": {"Target", "Level"}, "level.py": {"Target"},
    }  # fmt: skip


def test_no_container_is_named_outside_its_table() -> None:
    # Readers and encoders name codecs as their libraries do.
    named = {
        (path.relative_to(SRC).as_posix(), name)
        for path in modules(
            "core/formats/capabilities.py", "core/formats/writing/encoders.py", "core/formats/reading", "demo"
        )
        for name in words(path) & set(CAPABILITIES)
    }
    assert named == set()


def test_source_is_not_a_station_and_has_open() -> None:
    assert AudioSource.__abstractmethods__ == {"open", "stamp", "check"}
    openers = {
        path.relative_to(SRC).as_posix()
        for path in modules()
        if ("ripe_press.core.formats.reading.reader", "SourceReader") in imports(path)
    }
    assert openers == {"core/sources/source.py", "core/sources/file.py"}


def test_the_id_of_a_finding_is_in_its_rule_alone() -> None:
    for rule in IDS:
        rooms = {path.relative_to(SRC).as_posix() for path in modules() if rule in words(path)}
        assert len([room for room in rooms if room.startswith("core/rules/")]) <= 2, (rule, rooms)
        # One is the name of a figure, too: of reports, and of what prints them.
        elsewhere = {room for room in rooms if not room.startswith("core/rules/")}
        assert elsewhere <= {"studio/reports.py", "cli/commands/measured.py"}, (rule, rooms)


@pytest.mark.parametrize(
    ("names", "most"),
    [
        # What names the class of a station, beside its own module and its package: paths, and who makes them.
        (("Depth",), 3),
        (("Rate",), 2),
        (("Channels",), 2),
        (("Finish", "NO_FINISH"), 8),
        (("Tags",), 2),
        # Names of a kind of source, with their makers.
        (("FileSource",), 6),
        (("SummedSource", "summed"), 1),
        (("JoinedSource", "joined"), 1),
        (("PlacedSource", "placed"), 1),
        (("ConvertedSource", "converted"), 1),
    ],
)
def test_a_new_kind_touches_few_files(names: tuple[str, ...], most: int) -> None:
    """Counted on those that there are: how many modules name the class, by import or behind the package."""
    touched = {
        path.relative_to(SRC).as_posix()
        for path in modules()
        if path.name != "__init__.py"
        and (
            {name for _, name in imports(path)} & set(names)
            or any(
                isinstance(node, ast.Attribute) and node.attr in names and getattr(node.value, "id", "") == "st"
                for node in ast.walk(tree(path))
            )
        )
    }
    assert len(touched) <= most, sorted(touched)


def test_css_class_is_styled_by_one_screen() -> None:
    """All sheets are loaded at once: a class of one screen that another styles too changes how both look."""
    rooms: dict[str, set[str]] = {}
    for sheet in sorted(ROOT.glob("web/src/**/*.css")):
        text = re.sub(r"/\*.*?\*/", "", sheet.read_text(encoding="utf-8"), flags=re.DOTALL)
        for name in re.findall(r"(?:^|[},{])\s*\.([a-z][a-z0-9-]*)", text):
            rooms.setdefault(name, set()).add("/".join(sheet.relative_to(ROOT / "web/src").parts[:2]))
    assert len(rooms) > 100
    assert {name: found for name, found in rooms.items() if len(found) > 1} == {}


def imported_by(path: Path) -> list[Path]:
    """The files of the page that one of them imports."""
    found = re.findall(r'(?:from|import)\s*\(?"(\.{1,2}/[^"?]+)', path.read_text())
    return [
        (path.parent / one).resolve().relative_to(PAGE)
        for one in found
        if (path.parent / one).resolve().is_relative_to(PAGE)
    ]


def test_modules_import_each_other_without_circles() -> None:
    names = {
        path: ".".join(path.relative_to(SRC.parent).with_suffix("").parts).removesuffix(".__init__")
        for path in modules()
    }
    known = set(names.values())
    graph = {
        name: {full if (full := f"{module}.{one}") in known else module for module, one in imports(path)} - {name}
        for path, name in names.items()
    }
    assert len(graph) > 400
    TopologicalSorter(graph).prepare()


def test_rooms_of_the_studio_are_entered_by_their_doors() -> None:
    """A door is a list of names, each used by another room or floor; nothing goes past it."""
    rooms = {path.parent.name: path for path in SRC.glob("studio/*/__init__.pyi")}
    assert len(rooms) >= 14
    entered: dict[str, set[str]] = {room: set() for room in rooms}
    for room in rooms:
        for path in modules(f"studio/{room}"):
            for module, name in imports(path):
                if module.startswith(f"ripe_press.studio.{room}"):
                    assert module == f"ripe_press.studio.{room}", f"{path} goes past the door of {room}"
                    entered[room].add(name)
    for room, path in rooms.items():
        assert entered[room] == {alias.name for line in tree(path).body for alias in line.names}, room


def test_all_styles_of_the_page_are_imported_in_one_place() -> None:
    """Views are loaded when they are opened: styles that came with them would change others by the order of visits."""
    styles = {path.relative_to(PAGE) for path in PAGE.rglob("*.css")}
    imported = {path: {one for one in imported_by(path) if one.suffix == ".css"} for path in PAGE.rglob("*.ts*")}
    assert imported.pop(PAGE / "main.tsx") == styles
    assert [path.name for path, found in imported.items() if found] == []


def test_styles_use_six_sizes_of_type_and_six_gaps() -> None:
    other = []
    for path in PAGE.rglob("*.css"):
        text = path.read_text()
        assert text.count("\n") < 400, path
        for name, value in re.findall(r"\b(font-size|(?:row-|column-)?gap): ([^;]+);", text):
            kind = "type" if name == "font-size" else "gap"
            if not all(re.fullmatch(rf"0|var\(--{kind}(-[1-6])?\)", one) for one in value.split()):
                other.append(f"{path.name}: {name}: {value}")
    assert other == []


def test_features_of_the_page_do_not_import_each_other() -> None:
    assert PAGE.is_dir()
    wrong = []
    for path in PAGE.rglob("*.ts*"):
        floor, *rest = path.relative_to(PAGE).parts
        for used in imported_by(path):
            upward = floor in ("shared", "api") and used.parts[0] in ("features", "app")
            across = floor == "features" and used.parts[0] in ("features", "app") and used.parts[1] != rest[0]
            if upward or across:
                wrong.append((path.name, str(used)))
    assert wrong == []
