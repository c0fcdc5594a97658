"""Drum notes of each instrument, by General MIDI; claps and rims are snares."""

NOTES: dict[str, frozenset[int]] = {
    "kick": frozenset({35, 36}),
    "snare": frozenset({37, 38, 39, 40}),
    "hat": frozenset({42, 44, 46}),
    "crash": frozenset({49, 52, 55, 57}),
    "ride": frozenset({51, 53, 59}),
    "tom": frozenset({41, 43, 45, 47, 48, 50}),
}
