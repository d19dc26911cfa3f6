"""Open formats that a build or a state is written in for other programs."""
