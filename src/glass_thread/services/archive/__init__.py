"""A song packed into one file and unpacked elsewhere, and a data folder copied while it is worked on."""
