"""Questions that are asked at every look, with the history of years behind them."""

from pathlib import Path

from ripe_press.store.db import Database
from ripe_press.store.mixes import _ROWS, Mixes


def test_the_shelf_does_not_go_through_all_that_was_ever_pressed(tmp_path: Path) -> None:
    """Each mix finds its own pressings by an index: steps are counted, for seconds depend on the machine."""
    database = Database(tmp_path / "record.sqlite3")
    database.migrate()
    counts = {}
    for many in (100, 400):
        with database.write() as connection:
            at = connection.execute("SELECT count(*) FROM mixes").fetchone()[0]
            for number in range(at, many):
                connection.execute(
                    "INSERT INTO mixes (title, path, owned, sha256, container, codec, rate_hz, channels, frames,"
                    " measures, embedded, bench, added_at)"
                    " VALUES ('Weir', ?, 0, ?, 'wav', 'pcm', 48000, 2, 1, '{}', '{}', '{}', '2026')",
                    (f"/{number}.wav", str(number)),
                )
                connection.execute(
                    "INSERT INTO pressings (mix_id, mix_title, mix_path, ticket, state, made_at)"
                    " VALUES (?, 'Weir', '/', '{}', 'done', '2026')",
                    (number + 1,),
                )
            steps = 0

            def count() -> int:
                nonlocal steps
                steps += 1
                return 0

            connection.set_progress_handler(count, 10)
            connection.execute(_ROWS).fetchall()
            connection.set_progress_handler(None, 0)
            counts[many] = steps
    assert len(Mixes(database).rows()) == 400
    assert counts[400] < 6 * counts[100], "four times as many cost about four times as much, and not sixteen"
    database.close()
