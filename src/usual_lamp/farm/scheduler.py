"""A scheduler for many machines: `python -m usual_lamp.farm.scheduler`, at the address in USUAL_LAMP_SCHEDULER.

On one machine the dispatcher brings its own.
"""

from __future__ import annotations

import asyncio
import sys
from urllib.parse import urlparse

from usual_lamp.farm.links import QuietScheduler, scheduler_address, security


async def serve() -> None:
    """Until the process is ended. Raises ValueError for an address or certificate that cannot be used, and OSError."""
    address = urlparse(scheduler_address())
    async with QuietScheduler(
        host=address.hostname, port=address.port, protocol="tls://", security=security(), dashboard=False
    ) as scheduler:
        await scheduler.finished()


def main() -> int:
    try:
        asyncio.run(serve())
    except (ValueError, OSError) as error:
        print(error, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main())
