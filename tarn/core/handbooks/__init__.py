"""Handbooks: documents with prose and live blocks that are filled afresh each time they are issued."""
