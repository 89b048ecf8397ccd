"""Where notes begin and end, and what each is made of."""
