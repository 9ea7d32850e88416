"""What the company's money is reckoned by."""
