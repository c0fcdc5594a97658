"""Colour of an edit: how much its cuts jump, and grades that make one shot like another."""
