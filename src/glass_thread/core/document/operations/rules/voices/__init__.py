"""Rules of operations that take from elsewhere: another track, another take, other versions."""
