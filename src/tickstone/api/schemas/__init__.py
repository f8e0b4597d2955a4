"""What goes over the wire. SI units; names say the unit."""
