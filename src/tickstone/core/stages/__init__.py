"""The stages a chain is made of: one file each."""
