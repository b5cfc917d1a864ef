"""Texts of rules, errors, command line and docs keep the rules of plain English (the page: `web/src/plain.test.ts`)."""

import ast
import json
import re
import shlex
import tokenize
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

import click
import pytest

from ripe_press.cli.app import app
from ripe_press.cli.grouping import CommandsWithEarlier
from support import ROOT

SOURCES = ROOT / "src" / "ripe_press"
PLAIN = json.loads(Path(__file__).with_name("plain.json").read_text(encoding="utf-8"))
BANNED = re.compile("|".join(f"(?:{one})" for one in PLAIN["everywhere"]), re.IGNORECASE)
FRAMES = re.compile(PLAIN["frames"])
SQL = re.compile(r"\b(SELECT|INSERT|UPDATE|DELETE FROM|CREATE|PRAGMA|state IN|pressing_id|drop_off,)\b")
VALUE = "000000"
"""Stands for a figure or a name in texts with values."""
MOST_FINDING, MOST_ERROR = 110, 160


@cache
def tree_of(path: Path) -> ast.Module:
    return ast.parse(path.read_text(encoding="utf-8"))


@cache
def texts_of(path: Path) -> dict[tuple[int, int], str]:
    """Every string with a space by its place, with ``VALUE`` for values, without docstrings and SQL."""
    tree, found = tree_of(path), {}
    inside = {id(one) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for one in node.values}
    inside |= {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            text = "".join(str(one.value) if isinstance(one, ast.Constant) else VALUE for one in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in inside:
            text = node.value
        else:
            continue
        if " " in text.strip() and not SQL.search(text):
            found[node.lineno, node.col_offset] = text
    return found


def banned(text: str) -> bool:
    """Whether a text has a banned phrase outside of code."""
    plain = re.sub(r"`[^`]*`", "CODE", text)
    return BANNED.search(plain) is not None


def test_no_text_of_the_product_has_a_banned_phrase() -> None:
    found = [
        f"{path.relative_to(ROOT)}:{line}: {text}"
        for path in sorted(SOURCES.rglob("*.py"))
        for (line, _), text in texts_of(path).items()
        if banned(text)
    ]
    assert found == []


def test_frames_are_named_only_for_cd_video_and_mp3() -> None:
    found = [
        f"{path.relative_to(ROOT)}:{line}: {text}"
        for path in sorted(SOURCES.rglob("*.py"))
        for (line, _), text in texts_of(path).items()
        if FRAMES.search(text) and not re.search(r"frames,|frames:|frame-|MP3", text)
    ]
    assert found == []


def test_names_in_texts_are_in_quotation_marks_of_one_form() -> None:
    found = [
        f"{path.relative_to(ROOT)}:{node.lineno}"
        for path in sorted(SOURCES.rglob("*.py"))
        for node in ast.walk(tree_of(path))
        if isinstance(node, ast.FormattedValue) and node.conversion == ord("r")
    ]
    assert found == [], "write `quoted(name)` of core/words.py, not `name!r`"


def remarks(path: Path) -> Iterator[tuple[int, str]]:
    """(Line, text) of the docstrings and comments of a source file."""
    text = path.read_text(encoding="utf-8")
    if path.suffix != ".py":
        for found in re.finditer(r"/\*.*?\*/|(?m:^ *//[^\n]*)", text, re.DOTALL):
            yield text.count("\n", 0, found.start()) + 1, re.sub(r"\n *\* ?", " ", found[0])
        return
    for node in ast.walk(tree_of(path)):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str):
            yield node.lineno, node.value.value
    with path.open("rb") as file:
        tokens = tokenize.tokenize(file.readline)
        yield from ((one.start[0], one.string) for one in tokens if one.type == tokenize.COMMENT)


def test_docstrings_and_comments_have_no_banned_phrase() -> None:
    sources = [*SOURCES.rglob("*.py"), *ROOT.glob("tests/**/*.py"), *ROOT.glob("web/src/**/*.ts*")]
    found = [
        f"{path.relative_to(ROOT)}:{line}: {text}"
        for path in sorted(sources)
        if "generated" not in path.parts
        for line, text in remarks(path)
        if banned(re.sub(r"`[^`]*`|\b[a-z]+:[A-Z]+|\s+", lambda code: " " if code[0].isspace() else "CODE", text))
    ]
    assert len(sources) > 700
    assert found == []


@pytest.mark.parametrize(
    "path", [*ROOT.glob("*.md"), *(ROOT / "docs").glob("*.md"), *SOURCES.rglob("*.md")], ids=lambda p: p.name
)
def test_no_page_of_the_docs_has_a_banned_phrase(path: Path) -> None:
    text = re.sub(
        r"```.*?```|`[^`\n]*`|^    .*$", "CODE", path.read_text(encoding="utf-8"), flags=re.DOTALL | re.MULTILINE
    )
    paragraphs = [" ".join(part.split()) for part in re.split(r"\n\s*\n|\n(?=[-|0-9])", text)]
    assert [one for one in paragraphs if banned(re.sub(r"\]\([^)]*\)", "]", one))] == []


@pytest.mark.parametrize("path", sorted((SOURCES / "core" / "briefs").glob("*.json")), ids=lambda p: p.stem)
def test_texts_of_briefs_are_plain_and_short(path: Path) -> None:
    brief = json.loads(path.read_text(encoding="utf-8"))
    for text in (brief["title"], brief["sentence"], brief["why"]):
        assert not banned(text) and len(text) <= MOST_ERROR, text
    assert brief["sentence"].endswith(".")


def sentences(call: str, folder: Path) -> Iterator[tuple[str, str]]:
    """(Place, text) of the sentences that functions give to ``call``, in a literal or a local variable."""
    for path in sorted(folder.rglob("*.py")):
        texts = texts_of(path)
        for function in ast.walk(tree_of(path)):
            if not isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
                continue
            nodes = list(ast.walk(function))
            named = {
                target.id: node.value
                for node in nodes if isinstance(node, ast.Assign)
                for target in node.targets if isinstance(target, ast.Name)
            }  # fmt: skip
            calls = [
                one for one in nodes if isinstance(one, ast.Call) and re.fullmatch(call, getattr(one.func, "id", ""))
            ]
            for given in (value for one in calls for value in one.args[1:3]):
                value = named.get(given.id, given) if isinstance(given, ast.Name) else given
                if text := texts.get((value.lineno, value.col_offset)):
                    yield f"{path.relative_to(ROOT)}:{value.lineno}", text


def form_of(text: str, most: int) -> str:
    """Return the fault in the form of a sentence; empty if none."""
    if len(text) > most:
        return f"{len(text)} characters"
    if not text.rstrip("”").endswith((".", "…")) and not text.endswith(VALUE):
        return "no full stop"
    return "" if len(re.findall(r"[.!?](?= [A-Z“])", text)) <= 1 else "more than two sentences"


def test_findings_have_two_short_sentences() -> None:
    found = list(sentences("(Order)?Finding", SOURCES / "core" / "rules"))
    assert len(found) > 30
    assert [f"{place}: {wrong}: {text}" for place, text in found if (wrong := form_of(text, MOST_FINDING))] == []


def test_errors_have_two_short_sentences() -> None:
    errors = "BadInput|NotFound|Unsupported|Unreadable|Conflict|Interrupted"
    found = list(sentences(errors, SOURCES))
    assert len(found) > 200
    assert [f"{place}: {wrong}: {text}" for place, text in found if (wrong := form_of(text, MOST_ERROR))] == []


def commands(group: click.Group, path: str = "ripe-press") -> Iterator[tuple[str, click.Command]]:
    for name, command in group.commands.items():
        yield f"{path} {name}", command
        if isinstance(command, click.Group):
            yield from commands(command, f"{path} {name}")


COMMANDS = dict(commands(app))


@pytest.mark.parametrize("name", COMMANDS)
def test_help_of_a_command_is_an_imperative_with_an_example(name: str) -> None:
    command = COMMANDS[name]
    first, _, rest = (command.help or "").partition("\n")
    assert re.match(r"[A-Z][a-z]+(?<!(?<!s)s),? ", first), first
    assert len(first) <= 62 and first.endswith("."), first
    if isinstance(command, click.Group) and not command.invoke_without_command:
        return
    examples = re.findall(rf"^\s*{name}(?: .*)?$", rest, re.MULTILINE)
    assert re.search(r"Examples?:", rest) and examples, name
    for line in examples:
        understood(line)


def understood(line: str) -> None:
    """Parses an example without running it."""
    words = shlex.split(line)[1:]
    context = click.Context(app, info_name="ripe-press")
    command: click.Command = app
    while isinstance(command, click.Group) and words and (found := command.get_command(context, words[0])):
        command, context = found, click.Context(found, parent=context, info_name=words[0])
        words = words[1:]
    with command.make_context(command.name, words, parent=context.parent):
        pass


@pytest.mark.parametrize("name", COMMANDS)
def test_options_are_short_and_show_their_defaults(name: str) -> None:
    for option in (one for one in COMMANDS[name].params if isinstance(one, click.Option)):
        help_text = option.help or ""
        assert help_text and len(help_text) <= 90, (option.opts, help_text)
        given = isinstance(option.default, str | int | float) and option.default not in ("", False)
        assert not given or option.show_default or "default" in help_text or option.is_flag, option.opts


def test_earlier_names_work_and_are_not_shown() -> None:
    context = click.Context(app, info_name="ripe-press")
    page = app.get_help(context)
    assert "history" in page and "  record " not in page
    for earlier, now in (("record", "history"),):
        assert app.get_command(context, earlier) is COMMANDS[f"ripe-press {now}"]
    order: Any = COMMANDS["ripe-press order"]
    assert isinstance(order, CommandsWithEarlier)
    assert order.get_command(context, "make") is COMMANDS["ripe-press order create"]
    assert order.get_command(context, "cut") is COMMANDS["ripe-press order split"]
    for command, option in (
        ("order create", "--runs-on"), ("order split", "--quiet-places"), ("watch", "--also-there"),
        ("history", "--most"), ("check", "--record"), ("send", "--accept"), ("send", "--because"), ("rack", "--hurry"),
        ("disc burn", "--hurry"), ("pass", "--on-drop-out"), ("pass", "--as-heard"), ("demo", "--only-make"),
    ):  # fmt: skip
        found = COMMANDS[f"ripe-press {command}"]
        known = [name for one in found.params for name in (*one.opts, *one.secondary_opts)]
        assert option in known, (command, option)
        assert option not in found.get_help(click.Context(found, info_name=command)).replace("--accept-", "")
