import gc

from glass_thread.cli.quick_scipy import leave_documentation_out

# As in the program itself: most of what is made is loaded once and stays, and SciPy's documentation is not read.
gc.set_threshold(50_000)
leave_documentation_out()
