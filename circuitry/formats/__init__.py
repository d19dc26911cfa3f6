"""Open formats for other programs: netlists and tables."""
