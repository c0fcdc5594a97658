"""What the film shows and sounds like, compiled in one place; player, renderer, exports and checks read it."""
