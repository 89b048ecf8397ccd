"""What was changed, what a singer tends to do, how loud it is."""
