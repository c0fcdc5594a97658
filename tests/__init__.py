"""Tests on behaviour: known answers, round trips, properties, real files, the real page."""
