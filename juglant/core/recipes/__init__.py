"""Everything that can be dialled in.

A field carries its range, unit, step, default and help once, here; the schema carries it
to the interface, which builds the control from it.
"""
