"""The company's networks: their places, their pace, and where nothing is probed."""
