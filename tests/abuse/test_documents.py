"""Files of other programs: whatever is in them, a reader answers in words, and in time that its size deserves."""

import io
import json
import time
from collections.abc import Callable
from typing import Any

import mido
import opentimelineio as otio
import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from tests.abuse import readers
from tests.abuse.support import everything, tried
from zembi.core.errors import BadInput
from zembi.core.interchange.limits import cell, from_cell, without_tags
from zembi.core.interchange.lineup import read_lineup
from zembi.core.interchange.lists import Cue, read_cues_csv, read_vtt, write_cues_csv
from zembi.core.interchange.lyrics import read_lyrics
from zembi.core.interchange.midi import read_midi
from zembi.core.interchange.timeline import read_timeline
from zembi.jobs import apart as apart_module
from zembi.jobs.apart import apart
from zembi.service.project.workspace import Project

URL = "/api/v1/projects/small"
Reader = Callable[[str], object]
TEXTS: list[Reader] = [read_lyrics, read_vtt, read_cues_csv, read_timeline, read_lineup]


def answers(reader: Callable[..., object], *given: object) -> str:
    """What a reader says: "" or its refusal; anything else it raises is a fault."""
    try:
        reader(*given)
    except BadInput as refusal:
        return refusal.message or pytest.fail("refused without a word")
    return ""


pieces = st.sampled_from([
    "WEBVTT", "\n", "\n\n", "\r", "\r\n", "00:00:01.000 --> 00:00:02.000", "00:00:01,000 --> 00:00:02,000", "-->", "[00:01.00]",
    "[offset:", "[offset:99999999999]", "<00:01.00>", "<", ">", "\"", ",", "start_s", "name", "nan", "inf", "1e400", "-1", "\ufeff", "\0",
    "9" * 50, " " * 50, "[", "]", "{", "}", "section", "\u2028", "\x85", "é", "=1+1", ":",
])  # fmt: skip
texts = st.one_of(st.text(max_size=200), st.lists(pieces, max_size=30).map("".join))


@pytest.mark.parametrize("reader", TEXTS, ids=lambda r: r.__name__)
@tried(150)
@given(
    text=texts,
    head=st.sampled_from(
        ["", "WEBVTT\n\n", "start_s,name\n", "[00:01.00]", "1\n00:00:01,000 --> 00:00:02,000\n"]
    ),
)
def test_no_text_is_answered_but_in_words(reader: Reader, text: str, head: str) -> None:
    answers(reader, head + text)


@tried(200)
@given(st.binary(max_size=200), st.booleans())
def test_no_bytes_are_answered_by_the_tempo_map_but_in_words(data: bytes, whole: bool) -> None:
    header = b"MThd\0\0\0\x06\0\x01\0\x01\x01\xe0MTrk" + len(data).to_bytes(4, "big")
    answers(read_midi, header + data if whole else data)


#: (reader, what stands before, what is repeated): each once took time in the square of its length.
LONG = [
    (read_lyrics, "", "9"), (read_lyrics, "", "\n"), (read_lyrics, "", " \n"), (read_lyrics, "", "1:"), (read_lyrics, "[00:01]", "[00:01]"),
    (read_lyrics, "[00:01]", "<"), (read_lyrics, "[00:01]x", "<00:01"), (read_lyrics, "1\n00:00:01,000 --> 00:00:02,000\n", "\n \n"),
    (read_lyrics, "", "00:00:01,000 "), (read_lyrics, "", "["), (read_lyrics, "[offset:", "9"), (read_lyrics, "", "\r"),
    (read_vtt, "WEBVTT\n\n", "\n \t"), (read_vtt, "WEBVTT\n\n", "9"), (read_vtt, "WEBVTT\n\n00:01.000 --> 00:02.000\n", "<"),
    (read_vtt, "WEBVTT\n\n", "00:"), (read_vtt, "WEBVTT\n\n", "-->\n"), (read_cues_csv, "start_s\n", ","), (read_cues_csv, "start_s\n", "\""),
    (read_timeline, "", "["), (read_timeline, "", "{\"a\":"), (read_timeline, "", "\\\""), (read_lineup, "\"", "\\\""),
]  # fmt: skip


@pytest.mark.parametrize(("reader", "head", "more"), LONG)
def test_a_text_ten_times_as_long_takes_about_ten_times_as_long(reader: Reader, head: str, more: str) -> None:
    def took(count: int) -> float:
        text = head + more * (count // len(more))
        best = 9e9
        for _ in range(2):
            begin = time.process_time()
            answers(reader, text)
            best = min(best, time.process_time() - begin)
        return best

    # In the square it would be a hundred times; what takes no time at all is let be.
    assert took(300_000) < 35 * max(took(30_000), 2e-3)


def timeline(**changes: Any) -> str:
    """A timeline of one clip, with parts of it changed by path, as "clip.source_range.start_time.rate"."""
    clip = otio.schema.Clip("GAL_01", otio.schema.ExternalReference("GAL_01.mp4"))
    clip.source_range = otio.opentime.TimeRange(
        otio.opentime.RationalTime(10, 24), otio.opentime.RationalTime(48, 24)
    )
    clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=1.0))
    whole = otio.schema.Timeline("x")
    track = otio.schema.Track("V", kind="Video")
    track.append(clip)
    whole.tracks.append(track)
    document = json.loads(otio.adapters.write_to_string(whole, "otio_json"))
    places = {"timeline": document, "stack": document["tracks"], "track": document["tracks"]["children"][0]}
    places["clip"] = places["track"]["children"][0]
    for path, value in changes.items():
        first, *steps = path.split("__")
        place = places[first]
        for step in steps[:-1]:
            place = place[int(step) if step.isdigit() else step]
        place[steps[-1]] = value
    return json.dumps(document)


BROKEN = {
    "no tracks": timeline(timeline__tracks=None), "tracks a word": timeline(timeline__tracks="x"), "no children": timeline(stack__children=None),
    "null child": timeline(track__children=[None]), "number child": timeline(track__children=[7]),
    "rate 0": timeline(clip__source_range__duration__rate=0.0), "rate below 0": timeline(clip__source_range__duration__rate=-24.0),
    "rate huge": timeline(clip__source_range__duration__rate=1e300), "rate nan": timeline(clip__source_range__duration__rate=float("nan")),
    "rate infinite": timeline(clip__source_range__start_time__rate=float("inf")), "value infinite": timeline(clip__source_range__start_time__value=float("-inf")),
    "value huge": timeline(clip__source_range__start_time__value=1e300), "rate a word": timeline(clip__source_range__duration__rate="24"),
    "speed nan": timeline(clip__effects__0__time_scalar=float("nan")),
    "speed huge": timeline(clip__effects__0__time_scalar=1e9), "no duration": timeline(clip__source_range__duration=None),
    "a range that is none": timeline(clip__source_range=[]), "surrogate": timeline(clip__name="\ud800"),
    "deep": "[" * 100_000 + "]" * 100_000, "brackets": "[" * 500_000, "deep objects": '{"a":' * 50_000 + "1" + "}" * 50_000,
    "too long": timeline(clip__source_range__duration__value=1e11), "huge whole number": timeline(clip__source_range__start_time__value=10**400),
    "a clip alone": otio.adapters.write_to_string(otio.schema.Clip("x"), "otio_json"), "words": "words", "empty": "",
}  # fmt: skip


@pytest.mark.parametrize("text", BROKEN.values(), ids=BROKEN.keys())
def test_a_broken_timeline_is_refused_by_both_readers(text: str) -> None:
    assert answers(read_timeline, text)
    assert answers(read_lineup, text)


def test_a_whole_timeline_is_not() -> None:
    assert answers(read_timeline, timeline()) == answers(read_lineup, timeline()) == ""
    still = timeline(clip__effects__0__time_scalar=0.0)
    assert answers(read_timeline, still) == "", "a picture that stands"
    assert answers(read_lineup, still), "no take stands"


@pytest.mark.parametrize("kind", ["deep", "no tracks", "rate nan", "value huge", "surrogate"])
def test_the_server_outlives_a_broken_timeline_and_keeps_nothing_of_it(
    client: TestClient, project: Project, kind: str
) -> None:
    before = everything(project.database)
    answer = client.post(
        f"{URL}/lineup/timeline?name=x.otio", content=BROKEN[kind].encode("utf-8", "surrogatepass")
    )
    assert answer.status_code == 400
    assert "x.otio" in answer.json()["detail"]
    assert everything(project.database) == before
    assert client.get(URL).status_code == 200


@pytest.mark.parametrize(
    "url", ["http://[::1", "file://[", "\\\\server\\x", "file:///%00", "http://x/GAL_01.mp4"]
)
def test_a_wild_address_in_a_timeline_belongs_to_no_take(client: TestClient, url: str) -> None:
    text = timeline(
        clip__media_references={"DEFAULT_MEDIA": {"OTIO_SCHEMA": "ExternalReference.1", "target_url": url}}
    )
    answer = client.post(f"{URL}/lineup/timeline?name=x.otio", content=text)
    assert answer.status_code in (200, 400), answer.text


@pytest.mark.parametrize(
    ("reader", "words"),
    [
        (readers.die, "more memory than there is"),
        (readers.sleep, "longer than 5 s"),
        (readers.eat, "more memory"),
    ],
)
def test_a_reader_that_dies_hangs_or_grows_does_no_harm(
    monkeypatch: pytest.MonkeyPatch, reader: Callable[[], object], words: str
) -> None:
    monkeypatch.setattr(apart_module, "LONGEST_S", 5.0)
    with pytest.raises(BadInput, match=words):
        apart("x.otio", reader)


def midi(ticks: int = 480, length: int = 4800, metre: bytes = b"\x04\x02") -> bytes:
    """A file of one track with a metre and a length."""
    delta = bytearray([length & 0x7F])
    while length := length >> 7:
        delta.insert(0, 0x80 | (length & 0x7F))
    body = b"\0\xff\x58\x04" + metre + b"\x18\x08" + bytes(delta) + b"\xff\x2f\0"
    return (
        b"MThd\0\0\0\x06\0\0\0\x01" + ticks.to_bytes(2, "big") + b"MTrk" + len(body).to_bytes(4, "big") + body
    )


def test_a_plain_tempo_map_is_read() -> None:
    assert len(read_midi(midi()).beats) == 11


@pytest.mark.parametrize("data", [
    midi(ticks=1, length=0x0FFFFFFF), midi(metre=b"\0\x02"), midi(metre=b"\x04\xc8"), midi(ticks=0), midi(ticks=0xE728), midi(metre=b"\xff\x02"),
    b"MThd", b"MThd" + b"\xff" * 60, midi()[:-5],
])  # fmt: skip
def test_a_wild_tempo_map_is_refused_and_takes_no_room(data: bytes) -> None:
    import tracemalloc

    tracemalloc.start()
    said = answers(read_midi, data)
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert said
    assert most < 20 << 20


@pytest.mark.parametrize("text", [
    "start_s,name\n1.0", "name,start_s\nx", "start_s\n" + "9" * 200_000, "start_s\r1.0\r2.0", 'start_s,name\n1.0,"a\rb"', "start_s\nnan", "start_s\ninf",
    "start_s\n1e999", "start_s,end_s\n1,nan", "start_s\n" + "9" * 5000, "\0", "start_s\n\0", 'start_s,name\n1.0,"' + "x" * 200_000,
    "start_s\n1.0,2.0,3.0\n", "",
])  # fmt: skip
def test_a_crooked_table_is_read_or_refused(client: TestClient, text: str) -> None:
    answer = client.post(f"{URL}/song/marks/file?name=x.csv", content=text.encode())
    assert answer.status_code in (200, 400), answer.text
    assert answer.status_code == 200 or answer.json()["detail"]


@pytest.mark.parametrize("text", [
    "WEBVTT\n\n" + "9" * 5000 + ":00:00.000 --> 00:00:02.000\nx", "[" + "9" * 5000 + ":00]x", "[offset:999999999999999999999]\n[00:01]x",
    "[offset:-" + "9" * 5000 + "]\n[00:01]x", "[00:01]" + "<00:01>a" * 60_000,
])  # fmt: skip
def test_numbers_of_thousands_of_digits_are_read_or_refused(client: TestClient, text: str) -> None:
    answer = client.put(f"{URL}/song/lyrics", json={"text": text})
    assert answer.status_code in (200, 400), answer.text
    assert client.get(URL).status_code == 200


def test_twenty_thousand_lines_and_marks_are_taken_in_at_once(client: TestClient, project: Project) -> None:
    lines = "\n".join(f"[{n // 600:02d}:{n // 10 % 60:02d}.{n % 10}]line {n}" for n in range(20_000))
    begin = time.monotonic()
    assert client.put(f"{URL}/song/lyrics", json={"text": lines}).json() == {"note": "20000 lines"}
    table = "start_s,name\n" + "\n".join(f"{n / 1000},{n}" for n in range(20_000))
    assert client.post(f"{URL}/song/marks/file?name=x.csv", content=table).json()["note"] == "20000 marks"
    assert time.monotonic() - begin < 60, "it once took minutes"
    client.post(f"{URL}/undo")
    client.post(f"{URL}/undo")
    assert everything(project.database)["mark"] == everything(project.database)["lyric"] == []
    answer = client.put(f"{URL}/song/lyrics", json={"text": lines + "\n[00:01]one more"})
    assert (answer.status_code, "20,000" in answer.json()["detail"]) == (400, True)


@tried(200)
@given(st.text(max_size=40))
def test_no_cell_of_a_table_is_a_formula_and_reading_brings_the_words_back(text: str) -> None:
    kept = cell(text)
    assert kept.lstrip(" \n")[:1] not in ("=", "+", "-", "@", "\t", "\r") or kept.startswith("'")
    assert from_cell(kept) == text or text.startswith("'")


@pytest.mark.parametrize("name", ["=1+1", "+x", "-x", "@x", "\tx", "plain", "'=1"])
def test_names_that_look_like_formulas_survive_a_table(name: str) -> None:
    written = write_cues_csv([Cue(1.0, 2.0, name, "mark")])
    assert f",{name}\n" not in written or name in ("plain", "'=1")
    (read,) = read_cues_csv(written)
    assert read.text == name.strip().lstrip("'") or read.text == name


@tried(200)
@given(st.text(alphabet="<>ab ", max_size=60))
def test_tags_go_and_words_stay(text: str) -> None:
    plain = without_tags(text)
    assert len(plain) <= len(text)
    assert without_tags("a<b>c") == "ac"
    assert ("<" in plain) <= ("<" in text)


def test_a_real_file_of_the_library_is_still_read() -> None:
    document = mido.MidiFile(ticks_per_beat=96)
    track = mido.MidiTrack(
        [mido.MetaMessage("set_tempo", tempo=400_000), mido.Message("note_on", time=96 * 8)]
    )
    document.tracks.append(track)
    out = io.BytesIO()
    document.save(file=out)
    found = read_midi(out.getvalue())
    assert found.beats[1] == pytest.approx(0.4)
