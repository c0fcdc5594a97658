"""B-roll: selects, what is said of clips, films found cut, and the shot list."""
