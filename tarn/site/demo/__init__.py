"""The demo: Skerrivane Ferries with a past, made by running the real pipeline."""
