"""Plans: searches through the parts list for a job."""
