"""Files: adding, preparing, finding again, and what is made from them."""
