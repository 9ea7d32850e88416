"""Talking to devices. Everything here yields readings; nothing here stores."""
