"""Drop-offs, the outbox and its carriers."""
