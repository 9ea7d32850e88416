"""What is beneath asking and reading: the connection, the state of the data, the words, what is remembered."""
