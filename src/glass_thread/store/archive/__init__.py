"""All rows of one song, taken out of a database and into another."""
