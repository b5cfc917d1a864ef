"""Print the tables of words for the page as JSON."""

import json

from ripe_press.core.requests.everyday import EVERYDAY
from ripe_press.core.words import TABLES

if __name__ == "__main__":
    everyday = {name: one.words for name, one in EVERYDAY.items()}
    print(json.dumps({**TABLES, "everyday": everyday}, indent=1, ensure_ascii=False))  # noqa: T201
