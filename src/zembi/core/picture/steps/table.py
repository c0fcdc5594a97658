"""Table: colours looked up in a table that the project brings (``core/colour/tables``), by its number, at a share."""

from zembi.core.picture.step import StepKind

TABLE = StepKind("table", {"number": 0.0, "share": 1.0}, {"number": "a table of colours"})
