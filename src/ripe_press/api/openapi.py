"""Prints the interface's description, from which the page's types are made."""

import json
import tempfile
from pathlib import Path

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio


def describe() -> str:
    """The OpenAPI document as JSON, keys in order."""
    with tempfile.TemporaryDirectory() as folder, Studio(DataFolder(Path(folder))) as studio:
        return json.dumps(make_app(studio).openapi(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(describe(), end="")  # noqa: T201
