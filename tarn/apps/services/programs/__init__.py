"""Programs no known application explains, and the recognisers people make of them."""
