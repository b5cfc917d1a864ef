"""The rules, grouped by what they judge."""
