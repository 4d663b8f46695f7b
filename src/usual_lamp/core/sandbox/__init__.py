"""Runs what reads foreign files in child processes that can do no harm.

A job is a function `job(request, say)` in some module of the core. It gets what it was asked as a JSON object, works in
a folder of its own, and tells its progress. Whatever becomes of it (a crash, a hang, a bomb, a break-in) costs its
caller one clear error.
"""

from usual_lamp.core.sandbox.jobs import Crashed, Nursery, OutOfRoom, Stopped, Unusable, run_job

__all__ = ["Crashed", "Nursery", "OutOfRoom", "Stopped", "Unusable", "run_job"]
