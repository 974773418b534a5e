"""Use cases: each takes a session and plain arguments and returns a result; the only road to a plan, an offset, a diagnosis, a job."""
