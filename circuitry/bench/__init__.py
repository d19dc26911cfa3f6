"""The bench: a build under power through time, with its faults and meters."""
