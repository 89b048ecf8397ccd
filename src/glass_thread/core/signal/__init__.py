"""Types, units, errors and array tools that everything stands on."""
