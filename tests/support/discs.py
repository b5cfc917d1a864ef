"""What belongs to an audio disc, made by hand for tests."""

from ripe_press.core.disc.text import pack_crc


def album() -> bytes:
    """Two tracks: titles, performers (the second a tab: the same), barcode and two ISRCs; Latin-1, English."""
    titles = b"The Album\0One\0Two\0"
    performers = b"The Band\0The Band\0\t\0"
    codes = b"4006381333931\0GBAYE0000351\0GBAYE0000352\0"
    owners = {0x80: titles, 0x81: performers, 0x8E: codes}
    rows: list[tuple[int, int, int, bytes]] = []
    for kind, run in owners.items():
        for at in range(0, len(run), 12):
            before = run[:at]
            track = before.count(b"\0")
            position = min(15, at - (before.rfind(b"\0") + 1))
            rows.append((kind, track, position, run[at : at + 12]))
    counts = bytes(sum(row[0] == 0x80 + kind for row in rows) for kind in range(15)) + b"\3"
    last = bytes([len(rows) + 2]).ljust(8, b"\0")
    sizes = bytes([0, 1, 2, 0]) + counts + last + bytes([9]).ljust(8, b"\0")
    rows += [(0x8F, at, 0, sizes[12 * at : 12 * at + 12]) for at in range(3)]
    packs = []
    for number, (kind, track, position, payload) in enumerate(rows):
        head = bytes([kind, track, number, position]) + payload.ljust(12, b"\0")
        packs.append(head + pack_crc(head).to_bytes(2, "big"))
    return b"".join(packs)
