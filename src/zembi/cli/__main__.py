"""``python -m zembi.cli``."""

from zembi.cli import main

main()
