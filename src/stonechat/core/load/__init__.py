"""What goes where: rules, packing, balance."""
