"""gunicorn: the application is loaded once and served by one process of it, which is made anew when it dies.

The listening socket is the supervisor's. Our worker answers on an event loop, so that a stream, a long poll or a slow
sender costs no thread.
"""

import os
import signal
import threading
import time

bind = f"fd://{os.environ['USUAL_LAMP_WEB_SOCKET']}"
workers = 1
worker_class = "usual_lamp.web.worker.WebWorker"
preload_app = True
timeout = 60
graceful_timeout = 2
keepalive = 15
umask = 0o077
worker_tmp_dir = "/dev/shm" if os.path.isdir("/dev/shm") else None
control_socket_disable = True

LINGER = 8.0
"""Seconds for which the serving process goes on when the one that made it has died: by then the next one serves."""
SUPERVISOR = os.getppid()


def post_fork(server: object, worker: object) -> None:
    """In the new process: see whether it is still wanted."""
    threading.Thread(target=end_with, args=(os.getppid(),), daemon=True).start()


def end_with(master: int) -> None:
    """End with the supervisor at once; with the process that made this one, after a while."""
    while os.getppid() == master:
        time.sleep(0.2)
    deadline = time.monotonic() + LINGER
    while time.monotonic() < deadline and os.path.exists(f"/proc/{SUPERVISOR}"):
        time.sleep(0.2)
    os.kill(os.getpid(), signal.SIGTERM)
    time.sleep(5.0)
    os._exit(0)
