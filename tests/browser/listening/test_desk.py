"""The listening desk in a browser: the output of its audio thread is recorded and compared with the files' samples."""

import base64
import json
import re
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from http.client import HTTPConnection
from pathlib import Path
from statistics import median
from typing import Any
from urllib.parse import urlsplit

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray
from playwright.sync_api import Browser, Page, expect

from support.server import bench
from support.signals import write

pytestmark = pytest.mark.quiet

RATE, SECONDS = 48_000, 30
RAMP = 240
TAP = """
(() => {
  const source = `class Tap extends AudioWorkletProcessor {
    constructor() { super(); this.count = 0; }
    process([input], [output]) {
      const l = new Float32Array(128), r = new Float32Array(128);
      if (input[0]) { l.set(input[0]); r.set(input[1] ?? input[0]); }
      output[0].set(l); output[1].set(r);
      this.port.postMessage({ at: this.count++, l, r }, [l.buffer, r.buffer]);
      return true;
    }
  }
  registerProcessor("test-tap", Tap);`;
  window.tapped = [];
  window.contexts = [];
  const add = AudioWorklet.prototype.addModule;
  AudioWorklet.prototype.addModule = async function (...words) {
    await add.call(this, URL.createObjectURL(new Blob([source], { type: "text/javascript" })));
    return add.apply(this, words);
  };
  const connect = AudioNode.prototype.connect;
  AudioNode.prototype.connect = function (to, ...more) {
    if (!(to instanceof AudioDestinationNode) || !(this instanceof AudioWorkletNode)) {
      return connect.call(this, to, ...more);
    }
    window.contexts.push(this.context);
    const tap = new AudioWorkletNode(this.context, "test-tap", { outputChannelCount: [2] });
    tap.port.onmessage = ({ data }) => window.tapped.push(data);
    connect.call(this, tap);
    return connect.call(tap, to);
  };
})();
"""
"""Copies every quantum on its way out, with a count of its own: no code of the product is asked what it plays."""

TAKE = """() => {
  const taken = window.tapped.splice(0);
  const pack = (side) => {
    const whole = new Float32Array(taken.length * 128);
    taken.forEach((one, at) => whole.set(one[side], at * 128));
    const bytes = new Uint8Array(whole.buffer);
    let text = "";
    for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
    return btoa(text);
  };
  return [taken.map((one) => one.at), pack("l"), pack("r")];
}"""

Heard = tuple[NDArray[np.float32], NDArray[np.float32]]


def counting(voice: int) -> NDArray[np.float32]:
    """On the left every sample holds its position, exactly in 24 bits; on the right its source."""
    left = np.arange(RATE * SECONDS) / 2**22 - 0.5
    return np.stack((left, np.full(len(left), voice / 16)), axis=1).astype(np.float32)


def places(left: NDArray[np.float32]) -> NDArray[np.int64]:
    return np.rint((left.astype(np.float64) + 0.5) * 2**22).astype(np.int64)


def taken(page: Page) -> Heard:
    """What left since it was last asked; no quantum is missing."""
    counts, left, right = page.evaluate(TAKE)
    assert counts == list(range(counts[0], counts[0] + len(counts))), "a quantum is missing"
    sides = (np.frombuffer(base64.b64decode(one), dtype=np.float32) for one in (left, right))
    return next(sides), next(sides)


@pytest.fixture(scope="module")
def counted(server: Any, tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    """A counting mix, pressed in three ways: in its 24 bits, cut to 16 without dither, and as MP3."""
    path = write(tmp_path_factory.mktemp("counting") / "Count.wav", counting(1), RATE, "PCM_24")
    with sync_api(server.address) as ask:
        (arrival,) = ask("POST", "/api/arrivals/path", {"path": str(path)})
        while (found := ask("GET", f"/api/arrivals/{arrival['id']}"))["state"] == "running":
            time.sleep(0.1)
        ticket: list[dict[str, Any]] = [
            {"id": "d0", "brief": "archive", "range_id": "r0", "changes": {"encoding": "s24"}},
            {"id": "d1", "brief": "archive", "range_id": "r0", "changes": {"encoding": "s16", "dither": "none"}},
            {"id": "d2", "brief": "phone-and-car", "range_id": "r0"},
        ]
        wish = bench(0, RATE * SECONDS, ticket=ticket)
        number = ask("POST", "/api/pressings", {"mix_id": found["mix_id"], "bench": wish})["id"]
        while (made := ask("GET", f"/api/pressings/{number}"))["state"] in ("queued", "running"):
            time.sleep(0.1)
    assert len(made["files"]) == 3, made
    pressing: dict[str, Any] = made
    return pressing


@contextmanager
def sync_api(address: str) -> Iterator[Callable[..., Any]]:
    with closing(HTTPConnection(urlsplit(address).netloc)) as line:

        def ask(method: str, path: str, body: Any = None) -> Any:
            line.request(method, path, json.dumps(body) if body else None, {"Content-Type": "application/json"})
            return json.loads(line.getresponse().read())

        yield ask


@pytest.fixture
def desk(browser: Browser, server: Any, counted: dict[str, Any]) -> Iterator[tuple[Page, Path]]:
    """Its proof, with a tap behind the mixer, and the path of the file that was cut to 16 bits."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address, bypass_csp=True)
    context.set_default_timeout(30_000)
    page = context.new_page()
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.add_init_script(TAP)
    page.goto(f"/proof/{counted['id']}")
    expect(page.get_by_role("radiogroup", name="Sources").get_by_role("radio")).to_have_count(4)
    # As loud as they are, so that every sample is its own.
    page.keyboard.press("l")
    page.wait_for_function("window.tapped.length > 20")
    page.evaluate("window.tapped.splice(0)")
    yield page, Path(counted["files"][1]["path"])
    context.close()
    assert problems == []


def begun(page: Page, milliseconds: int) -> Heard:
    """Plays, and gives what left from before its first sound on."""
    page.keyboard.press("Space")
    page.wait_for_function("window.tapped.some((one) => one.r[64] !== 0 || one.l[64] !== 0)")
    return playing(page, milliseconds)


def playing(page: Page, milliseconds: int) -> Heard:
    page.wait_for_timeout(milliseconds)
    return taken(page)


def test_playback_is_bit_exact_and_switching_keeps_the_position(desk: tuple[Page, Path]) -> None:
    page, short = desk
    left, right = begun(page, 600)
    begins = int(np.flatnonzero(right)[0])
    heard = slice(begins + RAMP, None)
    assert np.array_equal(places(left[heard]), np.arange(RAMP, RAMP + len(left[heard])))
    assert set(right[heard].tolist()) == {1 / 16}
    at = int(places(left[-1:])[0]) + 1
    whole = soundfile.read(short, dtype="float32")[0]
    for key in "2012":
        page.keyboard.press(key)
        left, right = playing(page, 250)
        # The position continues through the switch, to the sample: the tolerance on the left is half a step of 16 bits.
        off = np.abs(places(left) - np.arange(at, at + len(left)))
        assert off.max() <= 2**6
        assert right.min() > 0
        assert np.abs(np.diff(right)).max() <= 2e-6 + np.abs(whole[0, 1] - 1 / 16) / RAMP
        if key == "2":
            assert np.array_equal(left[-1000:], whole[at + len(left) - 1000 : at + len(left), 0])
        at += len(left)


def test_difference_of_a_16_bit_cut_is_the_removed_bits(desk: tuple[Page, Path]) -> None:
    page, short = desk
    whole, mix = soundfile.read(short)[0], counting(1).astype(np.float64)
    page.keyboard.press("2")
    page.keyboard.press("d")
    left, _ = begun(page, 900)
    found = np.array(left, dtype=np.float64)
    begins = int(np.flatnonzero(found)[0])
    cut = mix[:, 0] - whole[:, 0]
    start = (
        int(
            np.argmin(
                [
                    np.abs(found[begins + 2_000 : begins + 3_000] - 16 * cut[at : at + 1_000]).max()
                    for at in range(1_000, 3_000)
                ]
            )
        )
        + 1_000
    )
    length = len(found) - begins - 2_000
    assert np.array_equal(left[begins + 2_000 :], (16 * cut[start : start + length]).astype(np.float32))
    # The archive in 24 bits is the mix: nothing is left of it.
    page.keyboard.press("1")
    page.wait_for_timeout(200)
    taken(page)
    left, right = playing(page, 300)
    assert not left.any() and not right.any()


def test_a_loop_goes_round_to_the_sample(desk: tuple[Page, Path]) -> None:
    page, _ = desk
    page.keyboard.press("s")
    page.keyboard.press("Space")
    # Until a whole round was heard, however long a busy machine takes for it.
    page.wait_for_function(f"window.tapped.filter((one) => one.r[64] === 1 / 16).length * 128 > {8.3 * RATE}")
    left, right = taken(page)
    heard = places(left)[np.flatnonzero(right == 1 / 16)]
    jumps = np.flatnonzero(np.diff(heard) < 0)
    assert len(jumps) == 1
    # Five milliseconds before the seam it fades out, and behind it in.
    assert heard[jumps[0]] in range(8 * RATE - RAMP - 3, 8 * RATE - RAMP + 3)
    assert heard[jumps[0] + 1] in range(RAMP - 3, RAMP + 3)
    assert np.abs(np.diff(right)).max() <= 1 / 16 / RAMP + 1e-6


def test_it_starts_and_goes_anywhere_at_once_and_knows_where_it_is(desk: tuple[Page, Path]) -> None:
    """Aims: 300 ms to the start, 200 ms to another place. Not a timed test: the times are printed, and the limit is ten
    times as much.
    """
    page, _ = desk
    started = time.monotonic()
    page.keyboard.press("Space")
    page.wait_for_function("window.tapped.some((one) => one.r[64] > 0)")
    start_s = time.monotonic() - started
    took = []
    for key in ("e", "s", "e", "s", "e"):
        page.evaluate("window.tapped.splice(0)")
        began = time.monotonic()
        page.keyboard.press(key)
        inside = "> 20" if key in "e" else "< 9"
        page.wait_for_function(
            f"window.tapped.some((one) => one.r[64] > 0 && (one.l[64] + 0.5) * {2**22} / {RATE} {inside})"
        )
        took.append(time.monotonic() - began)
    assert start_s < 3 and median(took) < 2, (start_s, took)
    page.wait_for_timeout(300)
    # The displayed position is the audible one: the last output minus the device's buffer.
    shown, left = page.evaluate(
        "() => [document.querySelector('.desk-place b').textContent, window.tapped.at(-1).l[127]]"
    )
    minutes, seconds = shown.split(":")
    behind_s = (left + 0.5) * 2**22 / RATE - (60 * int(minutes) + float(seconds))
    # Two messages from the audio's thread: on a busy machine the page may have read one of them and not the other.
    assert -0.1 < behind_s < 0.25


def test_missing_server_is_reported_and_playback_resumes(desk: tuple[Page, Path]) -> None:
    page, _ = desk
    begun(page, 300)
    page.context.set_offline(True)
    expect(page.locator(".desk-said")).to_contain_text("No answer from the server")
    page.wait_for_timeout(2_500)
    _, right = taken(page)
    assert np.abs(np.diff(right)).max() <= 1 / 16 / RAMP + 1e-6
    page.evaluate("window.tapped.splice(0)")
    page.context.set_offline(False)
    page.wait_for_function("window.tapped.some((one) => one.r[64] > 0)")
    expect(page.locator(".desk-said")).to_have_text("")
    left, right = taken(page)
    heard = places(left)[right == 1 / 16]
    assert len(heard) and np.array_equal(np.diff(heard), np.ones(len(heard) - 1))


def test_a_busy_page_does_not_stop_the_sound(desk: tuple[Page, Path]) -> None:
    page, _ = desk
    begun(page, 600)
    page.evaluate("() => { const end = performance.now() + 1500; while (performance.now() < end); }")
    page.wait_for_timeout(300)
    left, right = taken(page)
    assert set(right.tolist()) == {1 / 16}
    assert np.array_equal(np.diff(places(left)), np.ones(len(left) - 1))


def test_ten_trials_by_keyboard_never_identify_x(desk: tuple[Page, Path], counted: dict[str, Any]) -> None:
    """The 16-bit cut is identifiable only in the audio; requests, answers and the page never identify it."""
    page, _ = desk
    seen: list[tuple[str, int, str]] = []
    told: list[str] = []

    def note(response: Any) -> None:
        if "/blind-tests/" in response.url:
            place = re.sub(r"/(blind-tests|trials)/\d+", r"/\1/#", response.url.split("?")[0])
            seen.append((place, response.status, ",".join(sorted(response.headers))))
            if "blocks" not in response.url:
                told.append(response.text())

    page.on("response", note)
    page.keyboard.press("2")
    page.keyboard.press("o")
    page.keyboard.press("x")
    expect(page.get_by_role("heading", name="Blind test")).to_be_visible()
    page.keyboard.press("Enter")
    shown = set()
    for trial in range(10):
        trials = page.get_by_role("region", name="Blind test")
        expect(trials.get_by_role("heading")).to_have_text(f"Trial {trial + 1} of 10")
        page.wait_for_timeout(250)
        shown.add(re.sub(r'Trial \d+|<kbd>.*?</kbd>|Pause|Play|transform: [^;"]*', "", trials.inner_html()))
        for key in "abx":
            page.keyboard.press(key)
            page.wait_for_timeout(30)
        if trial == 3:
            # The passage can be changed in the middle of a test, and stays changed.
            page.keyboard.press("e")
            expect(trials.get_by_role("button", name="End E")).to_have_attribute("aria-pressed", "true")
            shown.clear()
        # A simulated listener with perfect hearing: a tone reduced to 16 bits repeats its samples.
        page.wait_for_timeout(120)
        page.keyboard.press(str(1 + trial % 2))
    result = page.get_by_role("region", name="Result of the blind test")
    expect(result).to_contain_text(re.compile(r"\d+ of 10 correct"))
    for _ in range(100):
        if len(told) == 10:
            break
        page.wait_for_timeout(50)
    assert len(shown) == 1, "what is shown differs between trials"
    # A block that was on its way when the trial was answered is refused, whichever it was of.
    blocks = {(status, headers) for place, status, headers in seen if place.endswith("blocks")}
    assert sorted({status for status, _ in blocks} - {409}) == [200]
    assert len(blocks) == len({status for status, _ in blocks})
    assert all('"hidden":[]' in one and '"seed":""' in one for one in told[:-1])
    assert '"state":"done"' in told[-1]
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Result of the blind test")).to_contain_text("Order seed")
    page.goto(f"/press/{counted['id']}")
    expect(page.get_by_role("list", name="Blind tests")).to_contain_text("of 10 correct")


def test_sources_play_normalised_and_with_another_mix(desk: tuple[Page, Path], server: Any, tmp_path: Path) -> None:
    page, _ = desk
    other = write(tmp_path / "Weir Beside.wav", counting(3)[: RATE * 12], RATE, "PCM_24")
    with sync_api(server.address) as ask:
        (arrival,) = ask("POST", "/api/arrivals/path", {"path": str(other)})
        while ask("GET", f"/api/arrivals/{arrival['id']}")["state"] == "running":
            time.sleep(0.1)
    page.get_by_role("combobox", name="Add source").click()
    page.locator(".ant-select-item-option").filter(has_text="Weir Beside").click()
    voices = page.get_by_role("radiogroup", name="Sources").get_by_role("radio")
    expect(voices).to_have_count(5)
    voices.last.click()
    expect(page.get_by_role("article", name="Compared with Weir Beside")).to_contain_text("than this mix")
    expect(page.get_by_role("img", name="Spectra of this mix and Weir Beside")).to_be_visible()
    page.evaluate("window.tapped.splice(0)")
    page.keyboard.press("Space")
    page.wait_for_function("window.tapped.some((one) => Math.abs(one.r[64] - 3 / 16) < 1e-6)")
    plays = page.get_by_role("region", name="Loudness normalisation")
    level = plays.get_by_role("button", name="at −23.0 LUFS")
    level.click()
    expect(level).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("button", name=re.compile("At −23.0 LUFS"))).to_be_visible()
    page.wait_for_timeout(300)
    taken(page)
    _, right = playing(page, 300)
    # A counting signal is not music: it is amplified until the limiter acts.
    assert (right != np.float32(3 / 16)).all() and np.abs(right).max() < 0.9


def test_the_last_bits_are_heard_and_never_louder_than_the_guard(desk: tuple[Page, Path]) -> None:
    page, _ = desk
    begun(page, 300)
    page.keyboard.press("b")
    left, right = playing(page, 600)
    assert np.abs(left).max() > 0.85
    page.keyboard.press("b")
    after, others = playing(page, 800)
    for side in (left, right, after, others):
        assert np.abs(side).max() <= np.float32(10 ** (-1 / 20)) + 1e-6
    assert others[-1] == np.float32(1 / 16)
