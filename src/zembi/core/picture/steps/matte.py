"""Matte: the picture's own transparency, which its file holds; what lies beneath shows through."""

from zembi.core.picture.step import StepKind

#: ``on`` 1 where the file's alpha counts. It is the first step of a chain: all others act on the picture cut out so. What
#: other programs read of the file they read with its alpha.
MATTE = StepKind("matte", {"on": 0.0}, {}, covers=lambda v: not v["on"])
