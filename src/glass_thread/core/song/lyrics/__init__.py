"""What is sung: words cut into syllables and laid on notes."""
