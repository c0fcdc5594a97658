"""Views: the answers that the page reads."""
