"""What is handed to a customer and taken to the car: a job told on paper."""

__all__ = ["job_sheet"]
