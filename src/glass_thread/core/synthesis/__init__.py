"""From a plan to samples."""
