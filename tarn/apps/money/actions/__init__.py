"""Setting the company's currency, and taking in rates."""
