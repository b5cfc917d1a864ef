"""Writing audio files."""
