"""The company's own currency and the rates of others."""
