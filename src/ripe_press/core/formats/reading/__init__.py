"""Reading audio files."""
