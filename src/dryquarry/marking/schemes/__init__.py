"""The schemes, one file each: the kind of value, how it is found, and how two values compare."""
