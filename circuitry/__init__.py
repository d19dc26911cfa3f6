"""The rules and the computation of a car's electrical system: no interface, no server."""
