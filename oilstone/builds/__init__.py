"""Builds in the database, and the one door through which they change."""
