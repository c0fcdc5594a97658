"""Files: probing, decoding, what is derived from them, and rendering. Footage is only ever read."""
