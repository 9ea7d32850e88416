"""Rules of depreciation, terms of single assets, prices of energy, plans of refresh."""
