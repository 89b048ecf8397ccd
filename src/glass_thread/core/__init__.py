"""Pure computation: arrays and frozen dataclasses in and out.

No files, clock, globals, web or database code in this folder.  Each file
imports only from the layers before it: errors, types, units; validation;
signal tools; analysis; editing and synthesis.
"""
