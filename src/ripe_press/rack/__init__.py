"""Simulated devices and services: each is a process, reached only by its socket or its folder."""
