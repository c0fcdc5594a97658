"""Colour: what the controls of a grade do, the lookup table that they compile to, and ``.cube`` files."""
