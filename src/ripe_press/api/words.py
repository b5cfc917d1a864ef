"""Print the tables of words for the page as JSON."""

import json

from ripe_press.core.words import TABLES

if __name__ == "__main__":
    print(json.dumps(TABLES, indent=1, ensure_ascii=False))  # noqa: T201
