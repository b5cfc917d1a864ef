"""One planner: the same wishes make the same files from the page, the command line and a ticket's own document."""

import hashlib
import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner
from fastapi.testclient import TestClient
from mutagen.wave import WAVE
from PIL import Image

from ripe_press.api.app import make_app
from ripe_press.cli.app import app
from ripe_press.core.briefs.library import built_in_briefs
from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.requests.bench import Bench, NamedRange, TicketLine
from ripe_press.core.requests.document import Document, MixRequest, SourceNote, document_of
from ripe_press.core.sources.source import facts_of_file
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.planning import planner as planning
from ripe_press.studio.planning.measured import measured
from ripe_press.studio.planning.planner import brief_folder, plan
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, pressed
from support.signals import noise, sine, write

RATE = 48_000


@pytest.fixture(scope="module")
def mix(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Four seconds at a tempo; struck every second, each stroke dying away by 60 dB a second."""
    decay = 10 ** (-(np.arange(4 * RATE) % RATE) * 60 / RATE / 20)
    wave = np.concatenate(
        (np.zeros((1_000, 2)), sine(997, 4, RATE, 0.5) * decay[:, None] + noise(4 * RATE, 2, 1, 1e-3))
    )
    path = write(tmp_path_factory.mktemp("mix") / "Millrace.wav", wave, RATE, "PCM_24")
    file = WAVE(path)
    file.add_tags()
    from mutagen.id3 import TBPM

    file.tags.add(TBPM(encoding=3, text="120"))
    file.save()
    return path


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    with TestClient(make_app(Studio(DataFolder(tmp_path_factory.mktemp("page")))), OWN) as client:
        yield client


def sums(paths: list[Path]) -> dict[str, str]:
    return {path.name: hashlib.sha256(path.read_bytes()).hexdigest() for path in paths}


def by_command(data: Path, *words: object) -> dict[str, Any]:
    with patch.dict("os.environ", {"RIPE_PRESS_DATA": str(data)}):
        done = CliRunner().invoke(app, [str(word) for word in words], catch_exceptions=False)
    assert done.exit_code in (0, 1), done.output
    found: dict[str, Any] = json.loads(done.output) if done.output.startswith("{") else {}
    return found


WISH = {"edges": {"end": "ring", "ring_below_dbfs": -50.0, "ring_limit_s": 0.6, "fade_in_s": 0.1}, "name": "Verse"}
OPTIONS = (
    "--from",
    f"{RATE // 2 + 11}smp",
    "--to",
    f"{2 * RATE + 300}smp",
    "--end",
    "ring",
    "--ring-below",
    -50,
    "--ring-limit",
    0.6,
    "--fade-in",
    "0.1",
    "--range-name",
    "Verse",
    "--name",
    "{title} {tempo} {bars} {brief}",
    "--group",
    "album",
)
EACH = ":level=loudness=-20:write-markers=no:rate=44100:depth=16"
"""Settings of each brief: options for all would override several."""  # fmt: skip


def test_page_and_command_line_make_the_same_bytes(mix: Path, client: TestClient, tmp_path: Path) -> None:
    """With a ring-out, fields of the tempo in the name, dither, a level of a group, and no word of the shelf."""
    number = arrive(client, str(mix))["mix_id"]
    bench = client.get(f"/api/mixes/{number}").json()["bench"]
    assert bench["tempo"]["changes"][0]["tempo_bpm"] == 120
    bench["ranges"] = [{"id": "r1", "start_frame": RATE // 2 + 11, "end_frame": 2 * RATE + 300, **WISH}]
    changes = {
        "label_pattern": "{title} {tempo} {bars} {brief}", "level": {"kind": "loudness", "target": -20.0},
        "markers": False, "rate_hz": 44_100, "encoding": "s16",
    }  # fmt: skip
    bench["ticket"] = [
        {"id": f"d{at}", "brief": brief, "range_id": "r1", "group": "album", "changes": changes}
        for at, brief in enumerate(("blank", "audio-cd"), 1)
    ]
    answer = client.post("/api/pressings", json={"mix_id": number, "bench": bench})
    made = pressed(client, answer.json()["id"])
    page = sums([Path(file["path"]) for file in made["files"]])
    assert "Millrace 120bpm blank.wav" in page
    report = by_command(
        tmp_path / "data", "press", mix, "--brief", f"blank{EACH}", "--brief", f"audio-cd{EACH}", *OPTIONS,
        "--out", tmp_path / "out", "--json",
    )  # fmt: skip
    assert sums([Path(file["path"]) for file in report["files"]]) == page
    ring = made["files"][0]["frames"] - round((1.5 * RATE + 289) * 44_100 / RATE)
    assert 0.2 * 44_100 < ring < 0.6 * 44_100 + 1


def test_a_ticket_goes_out_and_comes_back(mix: Path, tmp_path: Path) -> None:
    """Written by `plan`, taken by `press`, here or in another data folder, picture and all: the same bytes."""
    Image.new("RGB", (64, 64), (120, 40, 90)).save(tmp_path / "cover.png")
    words = ("--brief", "streaming-loud", "--format", "flac", "--cover", tmp_path / "cover.png", "--tag", "artist=Weir",
             "--depth", 16, "--dither", "none")  # fmt: skip
    ticket = tmp_path / "ticket.json"
    planned = by_command(tmp_path / "data", "plan", mix, *words, "--ticket-out", ticket, "--json")
    plain = by_command(tmp_path / "data", "press", mix, *words, "--out", tmp_path / "a", "--json")
    (tmp_path / "cover.png").unlink()
    again = by_command(tmp_path / "other", "press", mix, "--ticket", ticket, "--out", tmp_path / "b", "--json")
    assert [file["sha256"] for file in again["files"]] == [file["sha256"] for file in plain["files"]]
    assert [one["rule"] for one in planned["files"][0]["findings"]] == ["rounded_without_dither"]
    assert planned["files"][0]["verdict"] == "look"


def test_a_ticket_of_another_mix_takes_all_of_this_one(mix: Path, tmp_path: Path) -> None:
    other = write(tmp_path / "Long Pound.wav", noise(9_000), RATE)
    ticket = tmp_path / "ticket.json"
    by_command(tmp_path, "plan", mix, "--brief", "archive", "--tag", "title={mix}", "--ticket-out", ticket, "--json")
    found = by_command(tmp_path, "press", other, "--ticket", ticket, "--out", tmp_path / "out", "--json")
    assert [file["frames"] for file in found["files"]] == [9_000]


def test_several_mixes_are_one_order(mix: Path, tmp_path: Path) -> None:
    other = write(tmp_path / "Long Pound.wav", noise(RATE, 2, 3, 0.02), RATE)
    words = ("--level", "peak=-1", "--group", "album", "--depth", "float64", "--out", tmp_path / "out", "--json")
    found = by_command(tmp_path, "press", mix, other, *words)
    gains = {file["measured"]["gain_db"] for file in found["files"]}
    assert len(found["files"]) == 2
    assert len(gains) == 1


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (("--ticket", "TICKET", "--rate", "44100"), "not allowed: rate"),
        (("--ticket", "nowhere.json"), "is not a ticket"),
        (("--ticket", "MIX"), "is not a ticket"),
        (("--ticket", "TICKET", "MIX"), "is for 1 mixes, not 2"),
    ],
)
def test_a_ticket_says_everything(mix: Path, tmp_path: Path, words: tuple[str, ...], sentence: str) -> None:
    ticket = tmp_path / "ticket.json"
    by_command(tmp_path, "plan", mix, "--ticket-out", ticket, "--json")
    real = [{"TICKET": str(ticket), "MIX": str(mix)}.get(word, word) for word in words]
    with pytest.raises(BadInput) as caught:
        by_command(tmp_path, "plan", mix, *real)
    assert sentence in caught.value.message


def document(path: Path, *briefs: str, clash: str = "keep-both") -> Document:
    facts = facts_of_file(path)
    lines = tuple(TicketLine(f"d{at}", brief, "r1") for at, brief in enumerate(briefs))
    bench = Bench((NamedRange("r1", 0, facts.frames),), ticket=lines, clash=clash)  # type: ignore[arg-type]
    return document_of((MixRequest(SourceNote(facts, "Millrace"), bench),), built_in_briefs(), "2026-11-26")


def planned_in(folder: Path, made: Document) -> planning.Plan:
    return plan(made, lambda wish: measured(wish.source.facts), lambda _wish, brief: brief_folder(folder, brief))


def test_files_have_places_by_their_briefs(mix: Path, tmp_path: Path) -> None:
    found = planned_in(tmp_path, document(mix, "audio-cd", "broadcast", "archive")).or_refuse()
    assert [one.placed.path.parent.name for one in found.files] == [tmp_path.name, "broadcast", "archive"]
    assert len({one.planned.path.source for one in found.files}) == 1


def test_impossible_delivery_is_rejected_by_name(mix: Path, tmp_path: Path) -> None:
    for made, code in ((document(mix), "press.nothing"), (document(mix, "audio-cd", "gone"), "brief.unknown")):
        with pytest.raises((BadInput, NotFound)) as caught:
            planned_in(tmp_path, made).or_refuse()
        assert caught.value.code == code
    skipping = document(mix, "audio-cd", clash="skip")
    (file,) = planned_in(tmp_path, skipping).files
    file.placed.path.parent.mkdir(exist_ok=True)
    file.placed.path.touch()
    with pytest.raises(BadInput) as caught:
        planned_in(tmp_path, skipping).or_refuse()
    assert caught.value.code == "press.all-there"


def test_a_ticket_enters_no_room_more_than_twice(mix: Path, client: TestClient) -> None:
    """One display and one pressing: each delivery is resolved once for the display, and twice for the pressing."""
    number = arrive(client, str(mix)).get("mix_id") or client.get("/api/shelf").json()["mixes"][0]["id"]
    bench = client.get(f"/api/mixes/{number}").json()["bench"]
    counted: dict[str, int] = {}

    def count(name: str, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*given: Any, **named: Any) -> Any:
            counted[name] = counted.get(name, 0) + 1
            return real(*given, **named)

        return call

    rooms = {name: count(name, getattr(planning, name)) for name in ("resolve", "place", "stretch_of", "mix_of")}
    with patch.multiple(planning, **rooms):
        client.post(f"/api/mixes/{number}/ticket", json=bench).raise_for_status()
        assert counted == {"resolve": 2, "place": 1, "stretch_of": 2, "mix_of": 1}
        counted.clear()
        answer = client.post("/api/pressings", json={"mix_id": number, "bench": bench})
        made = pressed(client, answer.json()["id"])
        assert counted == {"resolve": 4, "place": 2, "stretch_of": 4, "mix_of": 2}
    assert soundfile.info(made["files"][0]["path"]).samplerate == 44_100
