"""Dividing a railroad into blocks and detection sections, and giving each a channel, an address and its wire home."""
