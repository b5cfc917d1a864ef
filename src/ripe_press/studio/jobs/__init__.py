"""Background jobs: workers, queue, progress, events."""
