"""What the page is told."""
