"""The lab: a simulated network that speaks real protocols on loopback. It knows nothing of the product."""
