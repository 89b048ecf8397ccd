"""The correction of pitch: notes, the ways between them, curves drawn by hand, glazes."""
