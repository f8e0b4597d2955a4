"""A second pair of eyes on a program that a person wrote: read by a real parser, never run."""
