"""Functions that write whole circuits into a build, ready to be edited after."""
