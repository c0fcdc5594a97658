"""Numbers that stand in the page and in the core: the page has none of its own but those explained here."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[1]
PAGE, CORE = ROOT / "web" / "src", ROOT / "src" / "zembi"

#: Page constants that say what a core constant says, and why each cannot be asked for: file, name, core file, core name.
BOTH = {
    # Within a step's shader or its film module, by tests/browser/test_shapes.py the same to the eye; part of the step.
    ("player/steps/sharpen.ts", "FINE"): ("media/steps/sharpen.py", "FINE"),
    ("player/steps/glow.ts", "WIDE"): ("media/steps/glow.py", "WIDE"),
    ("player/steps/blur.ts", "WIDE"): ("media/steps/blur.py", "_WIDE"),
    ("player/steps/grain.ts", "GRAIN"): ("media/steps/grain.py", "_GRAIN"),
    ("player/steps/grain.ts", "TILE"): ("media/steps/grain.py", "_TILE"),
}

#: Limits typed in the page: of what only the page knows, by file, and what they are of.
TYPED = {
    "views/lineup/ByHand.tsx": 1,  # a take begins at its first second
    "views/sheet/treating/Fields.tsx": 1,  # a length is no less than nothing
    "parts/Sensitivity.tsx": 2,  # all hits and none are no choice
    "parts/Listening.tsx": 2,  # how loud it is heard here
}


def value(path: Path, name: str) -> float:
    found = re.search(rf"^(?:const )?{name}(?:: \w+)? = ([\d./ ]+);?$", path.read_text(), re.MULTILINE)
    assert found, f"{name} is not in {path.name}"
    parts = [float(x) for x in found[1].split("/")]
    return parts[0] if len(parts) == 1 else parts[0] / parts[1]


def test_what_stands_in_both_is_the_same_number() -> None:
    for (page, name), (core, core_name) in BOTH.items():
        assert value(PAGE / page, name) == value(CORE / core, core_name), f"{page}: {name}"


def test_no_field_of_a_form_has_a_limit_of_its_own_but_those_of_the_screen() -> None:
    """Fields ask ``within``; a limit that is typed is of how something is shown, and listed here with its file."""
    typed = re.compile(r"\b(?:min|max)=\{(-?[\d.]+)\}")
    found = {
        str(path.relative_to(PAGE)): len(typed.findall(path.read_text()))
        for path in sorted(PAGE.rglob("*.tsx"))
        if typed.search(path.read_text())
    }
    assert found == TYPED
