"""Functions that write whole circuits: ready to be edited after, and to be written again."""
