"""Help topics, one text each: shown by ``help`` and linked from the docs."""

import re
from importlib.resources import files


def topics() -> dict[str, str]:
    """Titles by the names of topics."""
    found = sorted(one.name for one in files(__name__).iterdir() if one.name.endswith(".md"))
    return {name.removesuffix(".md"): _text(name).split("\n", 1)[0].removeprefix("# ") for name in found}


def topic(name: str) -> str:
    """The text of a topic for the terminal: paragraphs, lists line by line, without Markdown."""
    text = _text(f"{name}.md").split("\n", 1)[1].strip()
    return re.sub(r"\[([^\]]+)\]\([^)]+\)", r"\1", text).replace("`", "").replace("*", "")


def _text(name: str) -> str:
    return files(__name__).joinpath(name).read_text(encoding="utf-8")
