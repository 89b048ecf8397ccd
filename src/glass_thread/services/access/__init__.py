"""Who may come in from another machine: sign-in codes, tickets for browsers, and how often one may guess."""
