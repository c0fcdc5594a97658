"""Commands that listen: to a song, and to takes that are lined up to it."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from zembi.cli.shared import AsJson, app, bar


@app.command()
def listen(song: Path, as_json: AsJson = False) -> None:
    """Listen to a song: tempo, beats, bars, sections, hits, loudness."""
    from zembi.service.song.listening import listen_to

    with bar("Listening", as_json) as report:
        found = listen_to(song, report)
    if as_json:
        print(json.dumps(_listen_document(found)))
        return
    print(
        f"{found.tempo_bpm:.2f} BPM{'' if found.tempo_steady else ' (moving)'}, {found.metre}/4, {len(found.downbeats)} bars, sure {100 * found.sure.grid:.0f} %, of the one {100 * found.sure.bar:.0f} %"
    )
    for s in found.sections:
        print(f"{s.start_s:8.2f} s  {s.label} ({s.bars} bars)")


def _listen_document(found: Any) -> dict[str, Any]:
    def cut(values: list[float]) -> list[float]:
        return [round(v, 5) for v in values]

    downbeats = found.downbeats
    phrases = []
    for s in found.sections:
        inside = [b for b in downbeats if s.start_s - 1e-3 <= b < s.end_s - 1e-3]
        starts = inside[::4]
        for k, start in enumerate(starts):
            end = starts[k + 1] if k + 1 < len(starts) else s.end_s
            phrases.append(
                {"start_s": round(start, 5), "end_s": round(end, 5), "bars": min(4, len(inside) - 4 * k)}
            )
    return {
        "duration_s": round(found.duration_s, 5), "tempo_bpm": round(found.tempo_bpm, 4), "tempo_steady": found.tempo_steady,
        "tempo": [{"start_s": round(t.start_s, 5), "end_s": round(t.end_s, 5), "bpm": round(t.bpm, 4), "steady": t.steady} for t in found.tempo],
        "metre": found.metre, "division": found.division, "sure": {name: round(share, 4) for name, share in asdict(found.sure).items()},
        "readings": [{"tempo_bpm": round(r.tempo_bpm, 4), "shift_beats": r.shift_beats, "score": round(float(r.score), 4)} for r in found.readings],
        "beats": cut(found.beats), "downbeats": cut(downbeats), "phrases": phrases,
        "sections": [{"start_s": round(s.start_s, 5), "end_s": round(s.end_s, 5), "label": s.label, "group": s.group} for s in found.sections],
        "hits": {band: [{"at_s": round(h.at_s, 5), "strength": round(h.strength, 4)} for h in hits] for band, hits in found.hits.items()},
        "loudness": {"hop_s": found.lufs_hop_s, "lufs": [round(v, 2) for v in found.lufs], "short_term": [round(v, 2) for v in found.short_term]},
        "energy": {"hop_s": found.lufs_hop_s, "values": [round(v, 3) for v in found.energy]},
        "voice": {"hop_s": found.lufs_hop_s, "likely": [round(v, 3) for v in found.voice]},
    }  # fmt: skip


@app.command()
def align(song: Path, takes: list[Path], as_json: AsJson = False) -> None:
    """Line takes up to a song by waveform."""
    from zembi.service.lineup.aligning import align_files

    with bar("Lining up", as_json) as report:
        found = align_files(song, takes, report)
    documents = [_align_document(take, f) for take, f in zip(takes, found, strict=True)]
    if as_json:
        print(json.dumps({"song": str(song), "takes": documents}))
        return
    for d in documents:
        print(f"{d['file']}: {d['status']} ({100 * d['confidence']:.1f} %)")
        for p in d["passes"]:
            print(
                f"    take {p.take_start_s:.3f} to {p.take_end_s:.3f} s lies at song {p.song_start_s:.4f} s, rate {p.rate:.6f}"
            )
        for c in d["candidates"]:
            print(
                f"    or: take {c['take_start_s']:.3f} s at song {c['song_start_s']:.4f} s ({c['score']:.2f})"
            )


def _align_document(take: Path, found: Any) -> dict[str, Any]:
    settled = [p for p in found.passes if not p.rivals]
    return {
        "file": str(take), "status": found.status, "confidence": round(found.confidence, 4),
        "passes": [
            {"take_start_s": round(p.take_start_s, 6), "take_end_s": round(p.take_end_s, 6), "song_start_s": round(p.song_start_s, 6), "rate": round(p.rate, 9)}
            for p in settled
        ],
        "candidates": [
            {"take_start_s": round(c.take_start_s, 6), "song_start_s": round(c.song_start_s, 6), "score": round(c.score, 4)}
            for p in found.passes for c in p.rivals
        ],
    }  # fmt: skip
