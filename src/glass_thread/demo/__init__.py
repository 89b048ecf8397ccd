"""The invented demo song and its synthesised singer, with exact known truth."""
