"""The delivery sheet for people: one page that prints well on A4 and Letter, and needs no server to be read."""

from html import escape

from ripe_press.core.paper import page, paragraph, table
from ripe_press.core.sheet.contents import COLUMNS, DeliverySheet, Remark, SheetFile, cell
from ripe_press.core.tags.sheet import FIELDS
from ripe_press.core.units import print_count, print_minutes
from ripe_press.core.words import VERDICTS


def write_page(sheet: DeliverySheet) -> str:
    """HTML, everything in it."""
    head = [(one.title, "n" if one.number else "") for one in COLUMNS]
    rows = [[(cell(file, one), _kind(one.of, one.number)) for one in COLUMNS] for file in sheet.files]
    body = [
        f"<h1>{escape(sheet.title)}</h1>", paragraph(sheet.artist), paragraph(summary(sheet)),
        table(head, rows), *_remarks(sheet), *_tags(sheet),
        "<h2>Checksums (SHA-256)</h2>",
        table([("File", ""), ("SHA-256", "")], [[(one.name, "name"), (one.sha256, "small")] for one in sheet.files]),
        *_contact(sheet), paragraph(f"Written by {sheet.written_by}. Check with `sha256sum -c checksums.sha256`."),
    ]  # fmt: skip
    # Landscape on any paper size of the printer.
    return page(f"{sheet.title}: delivery sheet", "".join(body), "landscape")


def summary(sheet: DeliverySheet) -> str:
    """How many files, how long, and when they were pressed."""
    said = [print_count(len(sheet.files), "file"), print_minutes(sheet.seconds)]
    if sheet.day:
        said.append(f"pressed {sheet.day}")
    if sheet.pressing is not None:
        said.append(f"pressing no. {sheet.pressing}")
    return " · ".join(said)


def remarks_of(sheet: DeliverySheet) -> list[tuple[SheetFile, Remark]]:
    """Everything that was noticed, file by file."""
    return [(file, one) for file in sheet.files for one in file.findings]


def accepted(one: Remark) -> str:
    """Who signed off, and why; empty without sign-off."""
    return f"signed off by {one.accepted_by}: {one.reason}" if one.accepted_by else ""


def tag_names(sheet: DeliverySheet) -> list[str]:
    """The fields that some file has, in the order of the tag sheet."""
    there = {name for file in sheet.files for name, text in file.tags.items() if text}
    return [name for name in FIELDS if name in there and name != "isrc"]


def _kind(of: str, number: bool) -> str:
    return "n" if number else "name" if of == "name" else ""


def _remarks(sheet: DeliverySheet) -> list[str]:
    found = remarks_of(sheet)
    if not found:
        return []
    rows = [
        [(file.name, "name"), (VERDICTS[one.verdict], ""), (one.sentence, ""), (accepted(one), "")]
        for file, one in found
    ]
    return ["<h2>Findings</h2>", table([(one, "") for one in ("File", "Verdict", "Finding", "Sign-off")], rows)]


def _tags(sheet: DeliverySheet) -> list[str]:
    names = tag_names(sheet)
    if not names:
        return []
    alike = [name for name in names if len({file.tag(name) for file in sheet.files}) == 1]
    own = [name for name in names if name not in alike]
    parts = ["<h2>Tags</h2>"]
    if alike:
        rows = [[(name.replace("_", " "), ""), (sheet.files[0].tag(name), "name")] for name in alike]
        parts.append(table([("All files", ""), ("", "")], rows))
    if own:
        head = [("File", ""), *((name.replace("_", " "), "") for name in own)]
        parts.append(
            table(head, [[(file.name, "name"), *((file.tag(one), "name") for one in own)] for file in sheet.files])
        )
    return parts


def _contact(sheet: DeliverySheet) -> list[str]:
    if not sheet.contact:
        return []
    return ["<h2>Contact</h2>", *(paragraph(f"{name}: {text}") for name, text in sheet.contact.items())]
