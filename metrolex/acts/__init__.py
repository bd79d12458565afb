"""Every change of a job, by place: plain functions from a job, and what was said, to the job after it.

An act changes the fields it names and no others, and raises BadInput at the field of what cannot be done. What becomes of that
which pointed to a part taken out stands in one table, ``metrolex.job.references``.
"""
