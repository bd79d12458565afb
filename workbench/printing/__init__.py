"""Papers of a job as PDF: printed by the queue's worker, not while a page is waited for, and kept until the job changes."""
