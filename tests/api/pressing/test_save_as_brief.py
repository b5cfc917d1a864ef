"""The settings of a delivery become a brief of one's own, with requirements proposed from them."""

from pathlib import Path

from fastapi.testclient import TestClient

from ripe_press.api.app import make_app
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.studio import Studio
from support.server import OWN, arrive, bench
from support.signals import noise, write

RATE = 48_000


def test_a_delivery_is_saved_as_a_brief_and_pressed_to_it_again(tmp_path: Path) -> None:
    path = write(tmp_path / "Headrace.wav", noise(RATE, 2, 1, 0.1), RATE, "PCM_24")
    with TestClient(make_app(Studio(DataFolder(tmp_path / "data"))), OWN) as client:
        mix = arrive(client, str(path))["mix_id"]
        wish = bench(0, RATE)
        wish["ticket"] = [
            {"id": "d1", "brief": "phone-and-car", "range_id": "r0", "changes": {"kbps": 256, "channels": "mono"}},
            {"id": "d2", "brief": "archive", "range_id": "r0", "changes": {"rate_hz": 44_100, "container": "flac"}},
        ]

        def save(file: str, title: str) -> dict[str, object]:
            answer = client.post(f"/api/mixes/{mix}/brief", json={"bench": wish, "id": file, "title": title})
            assert answer.status_code == 201, answer.text
            found: dict[str, object] = answer.json()
            return found

        lossy = save("d1", "Ada's Phone")
        assert (lossy["id"], lossy["title"]) == ("ada-s-phone", "Ada's Phone")
        require, prefer = lossy["require"], lossy["prefer"]
        assert isinstance(require, dict) and isinstance(prefer, dict)
        assert (require["containers"], require["channels"], require["kbps_min"]) == (["mp3"], [1], 256)
        assert (prefer["kbps"], prefer["encoding"], require["encodings"]) == (256, "lossy", [])
        plain = save("d2", "Ada's Phone")
        require, prefer = plain["require"], plain["prefer"]
        assert isinstance(require, dict) and isinstance(prefer, dict)
        # The id is taken; the depth follows the mix, the rate was chosen.
        assert plain["id"] == "ada-s-phone-2" and (require["rates_hz"], prefer["encoding"]) == ([44_100], "keep")
        wish["ticket"] = [{"id": "d1", "brief": "ada-s-phone", "range_id": "r0"}]
        (row,) = client.post(f"/api/mixes/{mix}/ticket", json=wish).json()["rows"]
        assert (row["settled"]["kbps"], row["settled"]["channels"]) == (256, "mono")
        assert not [one for one in row["findings"] if one["rule"].startswith("brief_")]
        refused = client.post(f"/api/mixes/{mix}/brief", json={"bench": wish, "id": "d1", "title": " "})
        assert refused.status_code == 422 and refused.json()["code"] == "brief.title"
