"""The plan at the interface: from the music, by hand, looked at and judged before it is carried out."""

from itertools import pairwise
from typing import Any

from fastapi.testclient import TestClient

from tests.api.test_work import URL, edit, operate, refused, state


def plan(client: TestClient) -> list[dict[str, Any]]:
    return list(client.get(f"{URL}/plan").json()["sections"])


def test_the_plan_follows_the_music_and_a_section_is_planned_by_hand(client: TestClient) -> None:
    parts = plan(client)
    assert [p["name"] for p in parts] == [s["name"] for s in state(client)["song"]["sections"]]
    assert parts[0]["first"] == 0
    assert parts[-1]["end"] == state(client)["length"]
    assert all(a["end"] == b["first"] for a, b in pairwise(parts))
    assert max(p["energy"] for p in parts) == 1
    busiest, calmest = (f(parts, key=lambda p: p["energy"]) for f in (max, min))
    assert busiest["longest"] <= calmest["longest"]
    lead = state(client)["angles"][0]["id"]
    pace = {"shortest": 8, "longest": 8, "broll": 0.0, "leads": [lead]}
    url = f"{URL}/plan/{busiest['section']}"
    assert client.put(url, json={"pace": pace}).status_code == 200
    now = next(p for p in plan(client) if p["section"] == busiest["section"])
    assert now["by_hand"]
    assert {k: now[k] for k in pace} == pace
    assert client.put(url, json={"pace": {**pace, "leads": [999]}}).status_code == 400
    assert client.put(url, json={"pace": {**pace, "shortest": 9}}).status_code == 400
    assert client.put(f"{URL}/plan/99999", json={}).status_code == 404
    client.post(f"{URL}/undo")
    assert plan(client) == parts, "one step of undo"
    client.post(f"{URL}/redo")
    client.put(url, json={"pace": None})
    assert plan(client) == parts, "by the music again"


def test_it_is_looked_at_and_judged_before_and_carried_out_as_seen(client: TestClient) -> None:
    before = edit(client)["shots"]
    carry = {"op": "rough cut", "seed": 3}
    seen = client.post(f"{URL}/edits/1/preview", json=carry).json()["lanes"][0]["items"]
    judged = client.post(f"{URL}/edits/1/judged", json=carry).json()
    assert edit(client)["shots"] == before, "only looked at"
    assert judged["shots"] == len(seen)
    made = operate(client, "rough cut", seed=3)["shots"]
    assert [(s["start"], s["source"]) for s in made] == [(s["start"], s["source"]) for s in seen]
    assert client.get(f"{URL}/edits/1/judged").json() == judged
    other = client.post(f"{URL}/edits/1/preview", json={**carry, "seed": 4}).json()["lanes"][0]["items"]
    assert [s["source"] for s in other] != [s["source"] for s in made]
    assert "no rule" in refused(client, "rough cut", without=["luck"])
    names = {r["name"] for r in client.get(f"{URL}/plan").json()["rules"]}
    assert {"energy", "rest", "once"} <= names
    off = operate(client, "rough cut", seed=3, without=sorted(names))
    assert off["shots"], "with every rule off it still cuts"


def test_a_section_planned_faster_is_cut_faster(client: TestClient) -> None:
    part = plan(client)[1]
    made = {}
    for beats in (2, 8):
        pace = {"shortest": beats, "longest": beats}
        client.put(f"{URL}/plan/{part['section']}", json={"pace": pace})
        shots = operate(client, "rough cut", first=part["first"], end=part["end"])["shots"]
        made[beats] = [s for s in shots if part["first"] <= s["start"] < part["end"]]
    assert len(made[2]) > 2 * len(made[8])


def test_a_section_has_a_lead_of_its_own(client: TestClient) -> None:
    sections = state(client)["song"]["sections"]
    part = sections[1]
    client.patch(f"{URL}/settings", json={"section": part["id"], "lead": 5})
    assert [s["lead"] for s in state(client)["song"]["sections"]] == [
        5 if s is part else None for s in sections
    ]
    now = plan(client)
    assert now[1]["first"] == now[0]["end"]
    without = round(part["start_s"] * state(client)["rate_num"] / state(client)["rate_den"])
    assert without - now[1]["first"] == 5
    client.patch(f"{URL}/settings", json={"section": part["id"], "lead": None})
    assert all(s["lead"] is None for s in state(client)["song"]["sections"])
    assert client.patch(f"{URL}/settings", json={"section": 9999, "lead": 2}).status_code == 404
    assert client.patch(f"{URL}/settings", json={"section": part["id"], "lead": 40}).status_code == 422
