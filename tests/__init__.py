import gc

gc.set_threshold(50_000)  # as in the program itself: most of what is made is loaded once and stays
