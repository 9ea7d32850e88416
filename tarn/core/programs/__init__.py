"""Programs no known application explains: what they look like, which are alike, and the rule that recognises them."""
