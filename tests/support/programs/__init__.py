"""Programs that tests start as processes of their own."""
