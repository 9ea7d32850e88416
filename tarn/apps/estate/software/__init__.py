"""What is installed: listed names, the products they stand for, releases, and who may change a device."""
