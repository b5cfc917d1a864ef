"""Sending: where finished files go, what of them leaves, and what their recipients say."""
