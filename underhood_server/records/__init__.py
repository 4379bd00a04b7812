"""Records of a workshop: who changed what, what was removed, and one box that finds everything."""
