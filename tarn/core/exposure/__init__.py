"""What is weak here: advisories as the world writes them, and which of them touch what is here."""
