"""Stems of a mix."""
