"""Presses a mix to every container in a process of its own, and prints the SHA-256 of every file as JSON.

python -m support.programs.pressed_sums MIX FOLDER
"""

import json
import sys
from pathlib import Path

from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.requests.making import LevelRequest
from support.press import delivery_of, facts_of, pressed

mix, folder = Path(sys.argv[1]), Path(sys.argv[2])
folder.mkdir()
facts = facts_of(mix)
aim = LevelRequest("loudness", -20.0)
deliveries = [
    *(delivery_of(facts, container=name, level=aim) for name in CAPABILITIES),
    delivery_of(facts, container="wav", rate_hz=44_100, encoding="s16", dither="shaped-strong"),
    delivery_of(facts, container="mp3", id3_version="2.3"),
]
made = pressed(mix, folder, *deliveries)
sys.stdout.write(json.dumps({Path(one.path).name: one.proof.sha256 for one in made}))
