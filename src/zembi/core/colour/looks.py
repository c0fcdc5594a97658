"""Looks that come with the application: values of a grade's controls under a name, each for a part of a film at some strength."""

from collections.abc import Mapping

#: Named after the story of the demo; values of the controls that are not at rest.
LOOKS: Mapping[str, Mapping[str, float]] = {
    # A yellow cast with the blues pulled out of what is bright.
    "Old varnish": {
        "temperature": 0.4,
        "tint": 0.05,
        "high_saturation": 0.55,
        "contrast": 1.08,
        "blacks": 0.12,
    },
    "Lamp smoke": {
        "temperature": 0.22,
        "contrast": 0.86,
        "blacks": 0.4,
        "highlights": -0.2,
        "saturation": 0.85,
    },
    "Slack water": {"temperature": -0.34, "saturation": 0.72, "shadows": 0.2, "whites": -0.2},
    "Wet rope": {"saturation": 0.45, "contrast": 1.28, "low_saturation": 0.5, "blacks": -0.15},
    "Storm glass": {
        "tint": -0.35,
        "temperature": -0.12,
        "contrast": 1.15,
        "exposure": -0.2,
        "saturation": 0.9,
    },
    "First ferry": {"exposure": 0.2, "temperature": 0.1, "saturation": 1.2, "whites": 0.2, "shadows": 0.15},
}
