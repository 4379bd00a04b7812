"""The API: every resource's router under one roof, and the one shape of an error."""
