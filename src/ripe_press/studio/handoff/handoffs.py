"""Files for the next program: handoffs of a mix to picture, and sidecars of files."""

from pathlib import Path

from ripe_press.core.errors import Cancelled
from ripe_press.core.requests.document import bench_of, stem_from
from ripe_press.store.stems import Stems
from ripe_press.studio.handoff.sidecars import sidecar_job
from ripe_press.studio.handoff.timeline import HandedMix, HandoffRequest, hand_off
from ripe_press.studio.jobs import Events, Jobs, JobState, Work, WorkerPool
from ripe_press.studio.planning import facts_of
from ripe_press.studio.pressing import PressRoom
from ripe_press.studio.shelf import Shelf


class Handoffs(Jobs[tuple[str, ...]]):
    """Writes files for other programs, for each mix and pressing; the result of a job is their paths."""

    def __init__(
        self, shelf: Shelf, stems: Stems, press_room: PressRoom, heavy: WorkerPool, passing: Path, events: Events
    ) -> None:
        super().__init__("handoffs", events, busy="Already being written.")
        self._shelf, self._stems, self._press_room = shelf, stems, press_room
        self._heavy, self._passing = heavy, passing

    def usual_folder(self, mix_id: int) -> Path:
        """The default folder for the handoff of a mix."""
        mix = self._shelf.mix(mix_id)
        return self._press_room.destinations.usual(mix.title, mix.path) / "for picture"

    def hand_off(self, mix_id: int, wish: HandoffRequest, folder: str = "") -> JobState[tuple[str, ...]]:
        """Begins to hand a mix off to picture. Raises: NotFound ``mix.unknown``; BadInput ``folder.…``;
        Conflict ``job.running``.
        """
        mix = self._shelf.mix(mix_id)
        out = self._press_room.destinations.checked(folder, mix.path) if folder else self.usual_folder(mix_id)
        notes = [stem_from(one.note) for one in self._stems.of(mix_id)]
        handed = HandedMix(
            facts_of(mix), mix.title, bench_of(mix.bench).markers, mix.embedded.get("time_reference"),
            tuple(one for one in notes if not one.live_s),
        )  # fmt: skip

        def run(work: Work[tuple[str, ...]]) -> tuple[str, ...]:
            report = hand_off(handed, wish, out, work.tell, work.should_stop)
            return (report["timeline"], report["edit_list"])

        return self.begin(("mix", mix_id), run)

    def write_sidecars(self, number: int) -> JobState[tuple[str, ...]]:
        """Begins to write a sidecar beside each file of a pressing. Raises: NotFound ``pressing.unknown``;
        Conflict ``job.running``.
        """
        pressing = self._press_room.pressing(number)
        paths = [Path(one.path) for one in pressing.files if one.state == "named" and Path(one.path).is_file()]

        def run(work: Work[tuple[str, ...]]) -> tuple[str, ...]:
            written = []
            for at, path in enumerate(paths):
                work.tell(at, len(paths))
                if work.should_stop():
                    message = "Cancelled. Written sidecars were kept."
                    raise Cancelled("handoff.cancelled", message)
                # A file is read in a worker: a decoder that crashes ends its job and nothing else.
                written.append(work.in_worker(self._heavy, self._passing, sidecar_job, str(path), follow=False))
            return tuple(written)

        return self.begin(("pressing", number), run)
