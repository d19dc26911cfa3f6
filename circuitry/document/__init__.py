"""The build as a document: reading and writing it, older versions of it, what makes it unusable."""
