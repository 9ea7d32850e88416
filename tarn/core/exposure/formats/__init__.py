"""The open formats feeds are written in: a file each, with a FORMAT that recognises and reads."""
