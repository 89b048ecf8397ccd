"""The data folder: what is in it, who may open it, and faults written down there."""
