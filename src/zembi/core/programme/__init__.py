"""The programme: picture and sound of the film, compiled in one place; player, renderer, exports and checks read it."""
