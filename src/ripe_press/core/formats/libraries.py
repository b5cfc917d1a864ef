"""The libraries that decide over the bytes of a file, by name and version."""

from functools import lru_cache
from importlib.metadata import PackageNotFoundError, version

import av
import soundfile
import soxr

_PACKAGES = ("ripe-press", "numpy", "numba", "soxr", "soundfile", "av", "mutagen", "pillow")


@lru_cache(maxsize=1)
def library_versions() -> dict[str, str]:
    """Names and versions of what computes, codes and writes here, the libraries inside packages too."""
    found = {name: _version(name) for name in _PACKAGES}
    found["libsndfile"] = str(soundfile.__libsndfile_version__)
    found["libsoxr"] = str(soxr.__libsoxr_version__)
    return found | {name: ".".join(map(str, parts)) for name, parts in sorted(av.library_versions.items())}


def _version(package: str) -> str:
    try:
        return version(package)
    except PackageNotFoundError:
        return "not installed"
