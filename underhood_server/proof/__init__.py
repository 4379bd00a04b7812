"""Proof: readings of finished cars, their photographs, and what they say of a job."""
