"""Running orders of the application: stored with the numbers of their mixes, pressed as documents."""

import json
import secrets
from collections.abc import Mapping, Sequence
from concurrent.futures import Executor
from dataclasses import asdict, replace
from datetime import date
from pathlib import Path
from typing import Any

from ripe_press.core.disc.frames import CAPACITY_FRAMES
from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.measure.places.quiet import quiet_places
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.document import (
    Document,
    MixRequest,
    bench_of,
    document_of,
    document_row,
    document_text,
    order_from,
    read_document,
)
from ripe_press.core.requests.running_order import OrderEntry, RunningOrder, checked_order, entries_between
from ripe_press.core.timeline import Marker
from ripe_press.core.versions.carried import FrameMapping
from ripe_press.core.words import quoted
from ripe_press.store.mixes import StoredMix
from ripe_press.store.orders import Orders, StoredOrder
from ripe_press.studio.briefs import BriefBook
from ripe_press.studio.discs import on_disc, refuse_no_disc
from ripe_press.studio.jobs import Events
from ripe_press.studio.orders.joins import hear_join
from ripe_press.studio.orders.tree import PathCell, path_of
from ripe_press.studio.orders.views import OrderView, view_of
from ripe_press.studio.planning import KeptKnowledge
from ripe_press.studio.shelf import MixViews, Shelf, document_for


class OrderBook:
    """Keeps running orders, and knows what they come to."""

    def __init__(
        self,
        table: Orders,
        shelf: Shelf,
        mix_views: MixViews,
        briefs: BriefBook,
        events: Events,
        listening: Executor,
        passing: Path,
    ) -> None:
        self._table = table
        self._listening, self._passing = listening, passing
        self._shelf = shelf
        self._mix_views = mix_views
        self._briefs = briefs
        self._events = events

    def all(self) -> list[StoredOrder]:
        """Every order, the one that was changed last first."""
        return self._table.all()

    def order(self, order_id: int) -> RunningOrder:
        """One order. Raises: NotFound ``order.unknown``."""
        return order_from(self._stored(order_id).body)

    def make(self, order: RunningOrder) -> int:
        """Keeps a new order, which may be empty. Raises: as `checked_order`; NotFound for a mix."""
        number = self._table.add(order.title, asdict(self._settled(order)))
        self._events.publish("orders")
        return number

    def set(self, order_id: int, order: RunningOrder) -> None:
        """Keeps an order as it is now. Raises: NotFound ``order.unknown``; as `make`."""
        self._stored(order_id)
        self._table.set(order_id, order.title, asdict(self._settled(order)))
        self._events.publish("orders")

    def copy(self, order_id: int) -> int:
        """Keeps a copy. Raises: NotFound ``order.unknown``."""
        order = self.order(order_id)
        title = f"{order.title or 'Order'}, copy"
        number = self._table.add(title, asdict(replace(order, title=title)))
        self._events.publish("orders")
        return number

    def remove(self, order_id: int) -> None:
        """Takes an order away. Raises: NotFound ``order.unknown``."""
        self._stored(order_id)
        self._table.remove(order_id)
        self._events.publish("orders")

    def let_go(self, mix_id: int) -> None:
        """Says whether a mix may leave the shelf. Raises: Conflict ``mix.in-order`` if a running order has it."""
        for one in self._table.all():
            if any(entry["mix"] == mix_id for entry in one.body["entries"]):
                mix, title = self._shelf.mix(mix_id).title, one.title or "Untitled"
                message = f"{quoted(mix)} is in running order {quoted(title)}. Remove it there first."
                raise Conflict("mix.in-order", message, mix=mix_id, order=one.id)

    def carried(self, passages: Mapping[int, tuple[int, FrameMapping]]) -> dict[int, dict[str, Any]]:
        """The orders in which mixes stand that have another version, by number, with their entries carried over.

        ``passages`` are the mix that each of them stands under now, and the way from its old frames to the new ones.
        """
        found = {}
        for one in self._table.all():
            entries = [dict(entry) for entry in one.body["entries"]]
            for entry in entries:
                if entry["mix"] in passages:
                    entry["mix"], passage = passages[entry["mix"]]
                    where = passage.stretch(entry["start_frame"], entry["end_frame"]) or (0, passage.new_frames)
                    entry["start_frame"], entry["end_frame"] = where
            if entries != one.body["entries"]:
                found[one.id] = {**one.body, "entries": entries}
        return found

    def of_ranges(self, title: str, wanted: Sequence[tuple[int, str]], gap_frames: int) -> RunningOrder:
        """An order of mixes, or of ranges of them where these are named. Raises: NotFound for a mix or a range."""
        entries = []
        for number, (mix_id, range_id) in enumerate(wanted, 1):
            mix = self._shelf.mix(mix_id)
            part = bench_of(mix.bench).range_of(range_id) if range_id else None
            start, end = (part.start_frame, part.end_frame) if part else (0, mix.frames)
            entry = OrderEntry(f"e{number}", mix_id, start, end, gap_frames=gap_frames)
            entries.append(replace(entry, edges=part.edges) if part else entry)
        return RunningOrder(tuple(entries), title)

    def of_cuts(self, mix_id: int, quiet: bool) -> tuple[OrderEntry, ...]:
        """One long mix cut at its markers, or where it falls quiet. Raises: NotFound; BadInput ``marker.none``."""
        mix = self._shelf.mix(mix_id)
        markers = bench_of(mix.bench).markers
        if quiet:
            found = quiet_places(self._mix_views.known(mix).loudness())
            if not found:
                message = f"{quoted(mix.title)} has no quiet places. Add markers to split it."
                raise BadInput("marker.none", message)
            places = [Marker(round(one.at_s * mix.rate_hz), f"Part {at}") for at, one in enumerate(found, 2)]
            markers = (Marker(0, "Part 1"), *places)
        return entries_between(markers, mix.frames, mix_id)

    def document(self, order: RunningOrder) -> tuple[Document, dict[str, KeptKnowledge]]:
        """The order as pressed, its mixes with their current benches; and their measurements by path.

        Raises: NotFound for a mix that is gone.
        """
        numbers = list(dict.fromkeys(one.mix for one in order.entries))
        mixes = [self._shelf.mix(one) for one in numbers]
        book = dict(self._briefs.all())
        wishes = tuple(self._wish(mix, book) for mix in mixes)
        entries = tuple(replace(one, mix=numbers.index(one.mix)) for one in order.entries)
        document = document_of(wishes, book, date.today().isoformat(), replace(order, entries=entries))
        known = {_key(wish): self._mix_views.known(mix) for wish, mix in zip(wishes, mixes, strict=True)}
        return document, known

    def _wish(self, mix: StoredMix, book: Mapping[str, Brief]) -> MixRequest:
        (wish,) = document_for(self._mix_views, mix, bench_of(mix.bench), book).mixes
        return replace(wish, bench=replace(wish.bench, ticket=()))

    def view(self, order_id: int) -> OrderView:
        """Return an order with its computed facts. Raises: NotFound ``order.unknown`` or for a mix."""
        return self.view_of(order_id, self.order(order_id))

    def view_of(self, order_id: int, order: RunningOrder) -> OrderView:
        """The same of one that is not kept yet."""
        if not order.entries:
            return OrderView(order_id, order, (), (), 0, CAPACITY_FRAMES, None)
        document, known = self.document(order)
        return view_of(order_id, order, document, [known[_key(wish)] for wish in document.mixes])

    def path(self, order_id: int, entry: int) -> tuple[PathCell, ...]:
        """The stations of an entry as the tree has them. Raises: NotFound; what cannot be made."""
        document, known = self.document(self.order(order_id))
        return path_of(document, entry, lambda wish: known[_key(wish)])

    def to_press(self, order_id: int, *, files: bool, disc: bool) -> Document:
        """The order as it is pressed, to its briefs or as a disc; refused where it is to be a disc and cannot be one.

        Raises: BadInput ``order.empty``, ``order.no-brief`` or ``disc.not-one``; NotFound.
        """
        order = checked_order(self.order(order_id))
        order = replace(order, lines=order.lines if files else (), disc=disc)
        if not order.lines and not order.disc:
            message = "No brief chosen. Add a brief or the disc."
            raise BadInput("order.no-brief", message)
        document, known = self.document(order)
        if order.disc:
            refuse_no_disc(on_disc(document, document.order or order, lambda wish: known[_key(wish)]))
        return document

    def hear(self, order_id: int, join: int, seconds: float) -> Path:
        """Write a file with the audio around the join before an entry, counted from 0; the caller deletes it.

        Raises: NotFound ``order.unknown``; BadInput ``order.no-join``.
        """
        order = self.order(order_id)
        document, known = self.document(order)
        shown = view_of(order_id, order, document, [known[_key(wish)] for wish in document.mixes])
        gains = [one.gain_db for one in shown.entries]
        target = self._passing / f"join {secrets.token_hex(6)}.wav"
        gain_db = gains[join] if 0 < join < len(gains) else 0.0
        text = json.dumps(document_row(document))
        self._listening.submit(hear_join, text, join, seconds, gain_db, str(target)).result()
        return target

    def export(self, order_id: int) -> str:
        """The order as a document that travels. Raises: NotFound ``order.unknown`` or for a mix."""
        document, _ = self.document(self.order(order_id))
        return document_text(document)

    def read(self, text: str) -> RunningOrder:
        """An order out of a document, its mixes found on the shelf by their content, or else by their names.

        Raises: BadInput ``document.…``, ``order.none`` or ``order.mixes``.
        """
        document = read_document(text)
        if document.order is None:
            message = "Not a running order but a ticket. Choose a running order file."
            raise BadInput("order.none", message)
        shelf = self._shelf.mixes()
        found = [_on_shelf(wish, shelf) for wish in document.mixes]
        missing = [wish.source.title for wish, mix in zip(document.mixes, found, strict=True) if mix is None]
        if missing:
            message = f"{quoted(missing[0])} is not on the Shelf. Add it, then import the order again."
            raise BadInput("order.mixes", message, missing=missing)
        ids = [mix.id for mix in found if mix]
        wrong = [one.mix for one in document.order.entries if one.mix >= len(ids)]
        if wrong:
            message = f"The order names mix {wrong[0]}, and it has {len(ids)}."
            raise BadInput("order.mix", message, mix=wrong[0])
        return replace(document.order, entries=tuple(replace(one, mix=ids[one.mix]) for one in document.order.entries))

    def _settled(self, order: RunningOrder) -> RunningOrder:
        """The order as it is kept; an empty one is filled later. Raises: as `make`."""
        for number, entry in enumerate(order.entries, 1):
            mix = self._shelf.mix(entry.mix)
            if entry.end_frame > mix.frames:
                message = f"Entry {number} ends after the end of {quoted(mix.title)}."
                raise BadInput("range.outside", message, end_frame=entry.end_frame, frames=mix.frames)
        return checked_order(order) if order.entries else order

    def _stored(self, order_id: int) -> StoredOrder:
        found = self._table.get(order_id)
        if found is None:
            message = "Running order not found."
            raise NotFound("order.unknown", message, order=order_id)
        return found


def _key(wish: MixRequest) -> str:
    return f"{wish.source.facts.path} {wish.source.facts.downmix}"


def _on_shelf(wish: MixRequest, shelf: Sequence[StoredMix]) -> StoredMix | None:
    facts = wish.source.facts
    same = [one for one in shelf if facts.content_sum and one.measures.get("content_sum") == facts.content_sum]
    named = [one for one in shelf if Path(one.path).name == Path(facts.path).name and one.frames == facts.frames]
    return next(iter([*same, *named]), None)
