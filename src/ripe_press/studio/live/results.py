"""Results of live passes: a capture that replaces its source, a partial one on its own, or a sentence."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

from ripe_press.core.errors import Cancelled, Interrupted, RipePressError
from ripe_press.core.live.capture import CaptureResult, PassLayout
from ripe_press.core.requests.document import stem_from
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.units import print_clock
from ripe_press.store.passes import Passes, StoredPass
from ripe_press.store.stems import Stems
from ripe_press.studio.jobs import WorkerPool
from ripe_press.studio.live.captures import LiveRequest, Passed, captured, heard_before, report_beside
from ripe_press.studio.stems import free_name, plain_name, read_stem

CUT_OFF = "Interrupted by shutdown."


class PassResults:
    """Settles passes in the record and beside their mixes; captures are made in a worker."""

    def __init__(self, table: Passes, stems: Stems, heavy: WorkerPool) -> None:
        self._table = table
        self._stems = stems
        self._heavy = heavy

    def made(
        self,
        wish: LiveRequest,
        heard: CaptureResult,
        sound: AudioSource | None,
        target: Path,
        ended: RipePressError | None,
    ) -> Passed:
        """Return the capture of the recording. Raises: as `captured`."""
        return self._heavy.submit(captured, wish, heard, sound, target, ended).result()

    def settle(self, stored: StoredPass, wish: LiveRequest, passed: Passed, target: Path) -> None:
        """Add the result of a pass to its mix: a complete one replaces its source, a partial one is separate."""
        report, ended = passed.report, passed.ended
        if not report:
            state = "cancelled" if isinstance(ended, Cancelled) else "failed"
            sentence = ended.message if ended else "No signal returned."
            self._table.end(stored.id, "cancelled" if state == "cancelled" else "failed", sentence, {})
            return
        row = self._heavy.submit(read_stem, str(target)).result()
        self._put(stored, wish, row, report, ended)

    def _put(
        self, stored: StoredPass, wish: LiveRequest, row: dict[str, Any], report: dict[str, Any],
        ended: RipePressError | None,
    ) -> None:  # fmt: skip
        stem = self._stems.get(stored.stem_id)
        name = str(stem.note["name"]) if stem else stored.name
        origin = {"kind": "capture", "wish": asdict(wish), "sentence": report["sentence"], "report": report}
        whole = report["complete"] and ended is None
        if whole and stem:
            self._stems.set(stem.id, {**row, "name": name, "unit": wish.unit, "apart": True}, origin)
            self._table.end(stored.id, "done", report["sentence"], report)
            return
        # If its source was removed in between, the recording is kept all the same.
        there = [stem_from(one.note) for one in self._stems.of(stored.mix_id)]
        called = name if whole else f"{name} up to {print_clock(report['frames'], report['rate_hz'])}"
        note = {**row, "name": free_name(plain_name(called), there), "unit": wish.unit, "apart": True}
        self._stems.add(stored.mix_id, note, True, origin)
        why = ended.message if ended else report["sentence"]
        self._table.end(stored.id, "done" if whole else "interrupted", why, report)

    def keep_cut_off(
        self, stored: StoredPass, wish: LiveRequest, spool: Path, layout: PassLayout, target: Path
    ) -> None:
        """Keeps what a pass heard that ended with the application, or with the power, at whatever instant."""
        cut = Interrupted("pass.cut-off", f"{CUT_OFF} The recording so far is kept.")
        if target.is_file() and (report := report_beside(target)):
            # Its capture was made already, and only the record had not heard of it.
            whole = bool(report["complete"])
            self.settle(stored, wish, Passed(None, None if whole else cut, report), target)
        elif not spool.is_file():
            self._table.end(stored.id, "failed", f"{CUT_OFF} Nothing was kept.", {})
        else:
            passed = self.made(wish, heard_before(spool, layout), None, target, cut)
            if not passed.report:
                spool.unlink(missing_ok=True)
                passed = Passed(None, Interrupted("pass.cut-off", f"{CUT_OFF} The recording had not started."))
            self.settle(stored, wish, passed, target)
