"""Money: amounts, rates, depreciation, payments. Amounts are whole minor units or decimals, never binary floats."""
