"""Songs and their tracks: brought in, changed, offered keys and tempo, edited together."""
