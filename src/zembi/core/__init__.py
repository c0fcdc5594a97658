"""Pure computation: arrays and frozen dataclasses in, the same out. No file, clock, web or database."""
