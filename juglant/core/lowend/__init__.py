"""The rules of the job: tuning, the loop, ducking."""
