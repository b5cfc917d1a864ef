"""The built wheel in its own environment: the product with its page, without Node, compiler and sources.

Its libraries are those of the tests, and imports are compared with declared libraries. ``RIPE_PRESS_WHOLE=1``
(`make soak`) installs the libraries from the lock instead.
"""

import ast
import json
import re
import shutil
import subprocess
import sys
import sysconfig
import time
import tomllib
import urllib.request
from importlib.metadata import packages_distributions
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support import ROOT, WHOLE
from support.signals import noise, write

RATE = 48_000


def run(*words: object, cwd: Path | None = None, path: Path | None = None) -> str:
    # Nothing but the environment's own commands: what it needed of others would not be there.
    environment = {"PATH": str(path), "HOME": str(cwd)} if path else None
    done = subprocess.run(
        [str(word) for word in words], cwd=cwd, env=environment, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of commands of an environment in which nothing but the wheel was installed."""
    place = tmp_path_factory.mktemp("installed")
    pip = [sys.executable, "-m", "pip", "-q", "--disable-pip-version-check"]
    # Of a copy: what an earlier build left behind would get into it.
    shutil.copytree(ROOT / "src", place / "source" / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, place / "source" / name)
    run(*pip, "wheel", "--no-deps", "--no-build-isolation", "-w", place / "dist", place / "source")
    run(sys.executable, "-m", "venv", "--without-pip", place / "venv")
    (wheel,) = (place / "dist").glob("ripe_press-*.whl")
    python = place / "venv" / "bin" / "python"
    libraries = ("-c", ROOT / "requirements.lock") if WHOLE else ("--no-deps",)
    run(*pip, "--python", python, "install", "--no-compile", *libraries, wheel)
    if not WHOLE:
        (own,) = (place / "venv" / "lib").glob("python*/site-packages")
        (own / "others.pth").write_text(sysconfig.get_path("purelib"))
    return python.parent


def plain(name: str) -> str:
    return name.lower().replace("_", "-")


def test_every_library_that_is_imported_is_declared() -> None:
    declared = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    words = [*declared["dependencies"], *declared["optional-dependencies"]["cluster"]]
    # Starlette is what FastAPI is made of.
    names = {"starlette", *(plain(re.split(r"[^\w.-]", word)[0]) for word in words)}
    known = packages_distributions()
    imported = {
        (node.module or "").partition(".")[0] if isinstance(node, ast.ImportFrom) else alias.name.partition(".")[0]
        for path in (ROOT / "src").rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Import | ast.ImportFrom)
        for alias in node.names
    } - {"ripe_press", *sys.stdlib_module_names}
    assert {one for one in imported if not {plain(name) for name in known.get(one, ())} & names} == set()


@pytest.mark.slow
@pytest.mark.timeout(600)
def test_the_wheel_presses_a_file_and_serves_the_page(installed: Path, tmp_path: Path) -> None:
    mix = write(tmp_path / "Millrace.wav", noise(RATE) * np.hanning(RATE)[:, None], RATE, "PCM_24")
    words = ["press", mix, "--brief", "audio-cd", "--out", tmp_path / "out", "--json"]
    report = json.loads(run(installed / "ripe-press", *words, cwd=tmp_path, path=installed))
    (file,) = report["files"]
    assert (file["sample_rate_hz"], file["bit_depth"]) == (44_100, 16)
    assert soundfile.info(file["path"]).frames == 44_100
    assert "Times and ranges" in run(installed / "ripe-press", "help", "times", cwd=tmp_path, path=installed)
    serve = [str(installed / "ripe-press"), "serve", "--port", "0", "--data", str(tmp_path / "data")]
    with subprocess.Popen(
        serve, stdout=subprocess.PIPE, text=True, env={"PATH": str(installed), "HOME": str(tmp_path)}
    ) as process:
        assert process.stdout
        address = process.stdout.readline().split()[-1]
        page = urllib.request.urlopen(address).read().decode()
        script = page.partition('src="')[2].partition('"')[0]
        assert b"Ripe Press" in urllib.request.urlopen(address + script).read()
        shelf = json.loads(urllib.request.urlopen(f"{address}/api/shelf").read())
        assert shelf["mixes"] == []
        time.sleep(0.1)
        process.terminate()
