"""The studio: one object that composes all rooms, made once at start."""

import os
import threading
from typing import Self

from ripe_press.store.blind_tests import BlindTestTable
from ripe_press.store.briefs import OwnBriefs
from ripe_press.store.db import Database
from ripe_press.store.drop_offs import DropOffs
from ripe_press.store.held_files import HeldFiles
from ripe_press.store.labels import Labels
from ripe_press.store.mixes import Mixes
from ripe_press.store.orders import Orders
from ripe_press.store.parcels import Parcels
from ripe_press.store.passes import Passes
from ripe_press.store.pressings import Pressings
from ripe_press.store.settings import Settings
from ripe_press.store.stems import Stems
from ripe_press.store.upkeep import Upkeep
from ripe_press.studio.briefs import BriefBook
from ripe_press.studio.data_folder import DataFolder, claim
from ripe_press.studio.discs import Burns
from ripe_press.studio.handoff import Handoffs
from ripe_press.studio.jobs import Cluster, Events, Topic, WorkerPool, begin
from ripe_press.studio.labels import LabelBook
from ripe_press.studio.listening import BlindTests, Desks, Ladders, SourceFinder
from ripe_press.studio.live import PassRoom, Rack
from ripe_press.studio.orders import OrderBook
from ripe_press.studio.planning import Previews, Trials, bring_up_to_date
from ripe_press.studio.pressing import Comparisons, FixityWatch, PressRoom, keep_copy, look_at_record
from ripe_press.studio.proof import IdleComparisons, MixComparisons
from ripe_press.studio.sending import DropOffBook, Outbox, Secrets
from ripe_press.studio.sets import sets_of
from ripe_press.studio.shelf import MixViews, Shelf, ShelfWatch, Versions
from ripe_press.studio.stems import StemBook


class Studio:
    """Shelf, press room and listening desk over one data folder, each with worker processes of its own.

    With a ``scheduler`` pressings go to the workers of a cluster. Raises: as `claim`, `Database` and `Cluster`.
    """

    def __init__(self, folder: DataFolder, scheduler: str = "") -> None:
        self._claim = claim(folder)
        try:
            folder.prepare()
            look_at_record(folder)
        except BaseException:
            self._claim.close()
            raise
        self.folder = folder
        self._database = Database(folder.database)
        bring_up_to_date(self._database)
        # Looking and listening never wait behind a long pressing or a long import.
        # At least two: one file that takes long lets others come in beside it.
        self._heavy = WorkerPool(max(2, (os.cpu_count() or 2) // 2), "reading")
        cluster = Cluster(scheduler, folder.root) if scheduler else None
        self._pressing = cluster or WorkerPool(1, "pressing")
        self._reading = WorkerPool(1, "reading")
        self._listening = WorkerPool(4, "listening")
        # Comparisons do not delay imports; their process starts with the first one.
        self._comparing = WorkerPool(1, "comparing")
        self.events = Events()
        mixes = Mixes(self._database)
        self.shelf = Shelf(folder, mixes, self._heavy, self.events)
        self.passes = PassRoom(
            Passes(self._database), Stems(self._database), self.shelf, Rack(), self._heavy, self.events
        )
        self.stems = StemBook(folder, Stems(self._database), self.shelf, self._heavy, self.events)
        self.mix_views = MixViews(self.shelf.folder_of, self._reading, self._heavy, self.events, self.stems.notes)
        self.trials = Trials(self._heavy)
        self.briefs = BriefBook(OwnBriefs(self._database))
        self.sets = sets_of(self._database, self.briefs)
        self.shelf.opening = self.sets.opening
        self.labels = LabelBook(Labels(self._database))
        self.press_room = PressRoom(
            folder,
            self._database,
            self._pressing,
            self._heavy,
            self.trials,
            self.mix_views,
            self.events,
            self.passes.settled,
            at_once=cluster.workers if cluster else 1,
        )
        self.fixity = FixityWatch(
            Upkeep(self._database), Settings(self._database), self.press_room.checks, self.press_room
        )
        self.comparisons = Comparisons(self._comparing, folder.passing, self.events)
        held = HeldFiles(self._database)
        self.mix_comparisons = MixComparisons(self._comparing, folder.passing, held, self.events)
        self.idle_comparisons = IdleComparisons(
            held, Settings(self._database), self.mix_comparisons, self.press_room.stored, lambda: bool(self.under_way())
        )
        self.ladders = Ladders(folder.passing, self._comparing, self.events)
        self.previews = Previews(folder, self._listening)
        self.orders = OrderBook(
            Orders(self._database),
            self.shelf,
            self.mix_views,
            self.briefs,
            self.events,
            self._listening,
            folder.passing,
        )
        self.versions = Versions(self.shelf, mixes, self.mix_views, self.orders.carried, self._heavy, self.events)
        self.shelf.arrived = self.versions.suggest
        self.shelf.looked_at_again = self.versions.changes.notice
        self.watch = ShelfWatch(mixes, self.versions.changes)
        casting = SourceFinder(self.shelf, self.versions, self.mix_views, self.press_room, self.briefs)
        self.desks = Desks(casting, folder.passing, self._listening, self._comparing, self.events)
        self.burns = Burns(folder.root / "rack" / "disc writer", self.events)
        parcels = Parcels(self._database)
        self.drop_offs = DropOffBook(DropOffs(self._database), parcels, Secrets(folder.root), self.events)
        self.outbox = Outbox(parcels, Pressings(self._database), self.drop_offs, self.events)
        self.handoffs = Handoffs(
            self.shelf, Stems(self._database), self.press_room, self._heavy, folder.passing, self.events
        )
        self.blind_tests = BlindTests(BlindTestTable(self._database), self.desks, self.events)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def start(self) -> None:
        """Warms the workers up and takes up unfinished pressings."""
        for pool in (self._reading, self._pressing, self._heavy, self._listening):
            pool.submit(begin)
        threading.Thread(target=keep_copy, args=(self.folder, self._database), name="copying", daemon=True).start()
        self.blind_tests.start()
        self.passes.start()
        self.press_room.start()
        self.outbox.start()
        self.watch.start()
        self.fixity.start()
        self.idle_comparisons.start()

    def under_way(self) -> frozenset[Topic]:
        """Return the topics that change now without a request, because they report progress."""
        states = [one.state.state for one in self.shelf.arrivals()] + [one.state for one in self.versions.changes.all()]
        checks = self.press_room.checks
        busy: dict[Topic, bool] = {
            "shelf": "running" in states or "reading" in states,
            "pressings": any(one.busy for one in (self.press_room, checks, self.comparisons, self.mix_comparisons)),
            "ladders": self.ladders.busy,
            "desks": self.desks.busy,
            "passes": self.passes.busy,
            "stems": self.stems.busy,
            "burns": self.burns.busy,
            "handoffs": self.handoffs.busy,
            "outbox": self.outbox.busy,
        }
        return frozenset(topic for topic, under_way in busy.items() if under_way)

    def give_up(self) -> None:
        """Ends the workers and the waits for them; nothing starts after this."""
        self.press_room.close()
        # Before the workers end: what ends with them was interrupted, and did not fail.
        self.passes.give_up()
        self.fixity.close()
        self.idle_comparisons.close()
        self.drop_offs.close()
        for pool in (self._heavy, self._pressing, self._reading, self._listening, self._comparing):
            pool.shutdown(wait=False, cancel_futures=True)

    def close(self) -> None:
        """Ends everything; interrupted pressings start again at the next start."""
        self.give_up()
        self.watch.close(self.watch.every_s + 1)
        self.burns.close()
        # Their workers have ended already.
        for jobs in (self.comparisons, self.mix_comparisons, self.press_room.checks):
            jobs.close(1.0)
        self.outbox.close()
        self.passes.close()
        self.desks.shutdown()
        self.press_room.wait()
        self._database.close()
        self._claim.close()
