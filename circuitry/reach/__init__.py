"""Ways through a build: which are there, what they need, and what every position does."""
