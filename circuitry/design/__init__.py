"""The build as data: its parts, wires and ways, conditions, colours, and the state it is put in."""
