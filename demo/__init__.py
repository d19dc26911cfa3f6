"""Demo cars: documents, and one made by script."""
