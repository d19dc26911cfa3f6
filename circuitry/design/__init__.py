"""The build as data: its parts, reading and writing it, and what makes it unusable."""
