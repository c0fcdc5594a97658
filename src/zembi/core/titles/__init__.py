"""Titles: cards of words with a style and a place in the frame, and what they are made of."""
