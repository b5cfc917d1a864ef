"""Rules of where a file goes: drop-offs that are not there, mails that grow too large, and what a recipient refused."""

from dataclasses import replace

from ripe_press.core.formats.capabilities import CAPABILITIES, DEPTH_WORDS
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding, Remedy
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.rules.turned_down import turned_down
from ripe_press.core.sending.mail import encoded_bytes, room_for_file, what_fits
from ripe_press.core.sending.parcel import Reason
from ripe_press.core.tags.sheet import COVER, FIELDS
from ripe_press.core.units import print_rate, print_size
from ripe_press.core.words import quoted

_MAIL_TEXT_BYTES = 2_000
"""About what a mail has beside its file, before it is written."""


@speaks("before", ids=("drop_off_unknown",))
def goes_somewhere(case: Case) -> Said:
    """The drop-offs that the delivery names are set up."""
    for name in case.sends.missing:
        sentence = f"No drop-off {quoted(name)}. Add it in Outbox or choose another."
        yield Finding("drop_off_unknown", "look", sentence)


@speaks("before", ids=("mail_too_large",))
def fits_into_a_mail(case: Case) -> Said:
    """The file stays within what a mailbox takes, once it is written as mail."""
    size = case.expected.size
    if size is None or size.basis == "bound":
        return
    for drop_off in case.sends.drop_offs:
        limit = drop_off.limit_bytes
        as_mail = encoded_bytes(size.low) + _MAIL_TEXT_BYTES
        if drop_off.kind != "mail" or not limit or as_mail <= limit:
            continue
        sizes = f"About {print_size(as_mail)} as mail; limit of {drop_off.name}: {print_size(limit)}"
        yield _too_large(case, sizes, room_for_file(limit, _MAIL_TEXT_BYTES))


def _too_large(case: Case, sizes: str, room: int) -> Finding:
    codec = case.path.codec
    fits = what_fits(room, case.path.cut.frames, case.path.source.facts.rate_hz, codec.channels, codec.container)
    if fits is None:
        return Finding("mail_too_large", "look", f"{sizes}. Use another drop-off.")
    container, kbps = fits
    title = CAPABILITIES[container].title
    modes = CAPABILITIES[container].modes
    changes = Changes(mode="constant" if "constant" in modes else modes[0], kbps=kbps)
    if container != codec.container:
        changes = replace(changes, container=container)
    remedy = Remedy(f"{title} {kbps} kbit/s", changes=changes)
    return Finding("mail_too_large", "look", f"{sizes}. Use {title} at {kbps} kbit/s.", remedy=remedy)


@speaks("before", ids=("refused_by_recipient",))
def was_taken(case: Case) -> Said:
    """What a recipient refused when it was last sent stands here until the delivery is as it was asked for."""
    for refusal in case.sends.refusals:
        reason = refusal.reason
        limited = any(one.name == refusal.drop_off and one.limit_bytes for one in case.sends.drop_offs)
        # The mail's size limit is checked above, for the file as planned.
        if (reason.kind == "size" and limited) or not _stands(case, reason):
            continue
        sentence = f"{refusal.drop_off} rejected the file: {reason.sentence}"
        field = next((one for one in reason.asked if one in FIELDS), None)
        if reason.kind == "code-used":
            field = "isrc"
        elif reason.kind == "cover":
            field = COVER
        yield Finding(
            "refused_by_recipient", "look", sentence, remedy=_remedy(case, reason),
            field=field if reason.kind in ("tag", "code-used", "cover") else None,
        )  # fmt: skip


def _stands(case: Case, reason: Reason) -> bool:
    """Return whether the delivery as planned has the fault that was rejected before."""
    codec, tags, asked = case.path.codec, case.path.tags.content, reason.asked
    given = dict(tags.values)
    match reason.kind:
        case "rate":
            return not asked or str(codec.rate_hz) not in asked
        case "container":
            return not asked or codec.container not in asked
        case "depth":
            return not asked or codec.encoding not in asked
        case "channels":
            return not asked or str(codec.channels) not in asked
        case "tag":
            return any(not given.get(one) for one in asked if one in FIELDS) or not set(asked) & set(FIELDS)
        case "code-used":
            return not asked or given.get("isrc", "").replace("-", "") in asked
        case "size":
            size, limit = case.expected.size, next((int(one) for one in asked if one.isdigit()), 0)
            return size is None or not limit or encoded_bytes(size.low) + _MAIL_TEXT_BYTES > limit
        case "clipped":
            peak = case.expected.sample_peak_dbfs
            return peak is None or peak > -0.1
        case _:
            return True


def _remedy(case: Case, reason: Reason) -> Remedy | None:
    """What one click would change; a thing that only a person can mend has none."""
    asked, codec = reason.asked, case.path.codec
    match reason.kind:
        case "rate":
            rates = [int(one) for one in asked if one.isdigit()]
            rates = [one for one in rates if CAPABILITIES[codec.container].takes_rate(one)]
            if rates:
                # The nearest lossless one, if there is one.
                least = min((one for one in rates if one >= codec.rate_hz), default=max(rates))
                return Remedy(print_rate(least), changes=Changes(rate_hz=least))
        case "container":
            container = next((one for one in CAPABILITIES if one in asked), None)
            if container:
                return Remedy(CAPABILITIES[container].title, changes=Changes(container=container))
        case "depth":
            encoding = next((one for one in CAPABILITIES[codec.container].encodings if one in asked), None)
            if encoding:
                return Remedy(DEPTH_WORDS[encoding], changes=Changes(encoding=encoding))
        case "channels":
            if asked == ("2",):
                return Remedy("Stereo", changes=Changes(channels="stereo"))
            if asked == ("1",):
                return Remedy("Mono", changes=Changes(channels="mono"))
        case "clipped":
            return turned_down(case)
        case _:
            pass
    return None
