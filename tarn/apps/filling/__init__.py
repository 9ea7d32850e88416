"""Fill rules: fields filled from what is known, rehearsed before, taken back after."""
