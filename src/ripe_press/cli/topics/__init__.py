"""What there is to know beside the options, a text a topic: in the terminal by ``help``, and linked from the docs."""

import re
from importlib.resources import files


def topics() -> dict[str, str]:
    """Titles by the names of topics."""
    found = sorted(one.name for one in files(__name__).iterdir() if one.name.endswith(".md"))
    return {name.removesuffix(".md"): _text(name).split("\n", 1)[0].removeprefix("# ") for name in found}


def topic(name: str) -> str:
    """The text of a topic as a terminal shows it: paragraphs parted by empty lines, no marks but its own."""
    text = _text(f"{name}.md").split("\n", 1)[1].strip()
    return re.sub(r"\[([^\]]+)\]\([^)]+\)", r"\1", text).replace("`", "").replace("*", "")


def _text(name: str) -> str:
    return files(__name__).joinpath(name).read_text(encoding="utf-8")
