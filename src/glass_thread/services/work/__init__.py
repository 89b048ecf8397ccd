"""Long work: jobs that are pure, who hands them out, and who carries them out, here or on another machine."""
