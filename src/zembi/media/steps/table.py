"""Table of colours in the film, as a grade's table is."""

from zembi.core.colour.tables import is_known, table_lut
from zembi.core.picture.step import Values
from zembi.media.sheet import Sheet
from zembi.media.steps.grade import through_table


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture with its colours looked up; as it is where the table is not at hand."""
    number, share = int(values["number"]), values["share"]
    if not is_known(number) or not share:
        return sheet
    return through_table(sheet, ("table", number, share), lambda: table_lut(number, share))
