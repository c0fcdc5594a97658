"""The made-up song, its footage and the demo project, all drawn and synthesised here."""
