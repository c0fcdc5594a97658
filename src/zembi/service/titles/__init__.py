"""Use cases of titles: pictures of cards, and what can be said of them."""
