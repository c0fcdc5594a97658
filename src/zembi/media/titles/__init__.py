"""Setting cards: fonts, the lines of a card shaped and broken, and its picture. The one renderer of page and film."""
