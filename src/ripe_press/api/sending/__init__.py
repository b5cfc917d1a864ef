"""Routes: drop-offs, the outbox and its carriers."""
