"""What is looked at before a request is let in: where it was sent, by whom, and how much it brings."""
