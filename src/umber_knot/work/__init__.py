"""Heavy work in worker processes: progress, cancel, and errors that never end the window.

Takes: a request by name with plain arguments. Gives: messages (progress, partial results, the end) over a pipe.
"""
