"""A PostgreSQL table of five million lines read by day and product, totalled by the server.

Usage: python benchmarks/database.py [LINES]
Starts a server of its own from the system's package. Prints the seconds from the address to the finished
panel, those of the same query alone, and how many rows travelled.
"""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.postgres import PASSWORD, Server

from oat_tide.documents import open_sources
from oat_tide.intake.origins import passwords
from oat_tide.plan.parts.sources import Sources

_FILL = """
CREATE TABLE sales AS
SELECT date '2015-01-01' + (i % 3650) AS sold_on, 'Product ' || (i::bigint * 7919) % 40 AS product,
       ((i::bigint * 31) % 97)::numeric(8, 2) AS cases
FROM generate_series(1, {lines}) AS i;
GRANT SELECT ON sales TO analyst; ANALYZE sales;
"""
_BARE = "SELECT sold_on, product, sum(cases), count(*) FROM sales GROUP BY 1, 2"


def main() -> None:
    """Fill a table, read it three times, and print the middle time."""
    lines = int(sys.argv[1]) if len(sys.argv) > 1 else 5_000_000
    server = Server()
    try:
        server.sql(_FILL.format(lines=lines))
        passwords.keep(server.address, PASSWORD)
        times, bare = [], []
        for _ in range(3):
            start = time.perf_counter()
            session = open_sources(Sources(places=(server.address,))).session
            times.append(time.perf_counter() - start)
            start = time.perf_counter()
            server.sql(f"SELECT count(*) FROM ({_BARE}) AS asked")
            bare.append(time.perf_counter() - start)
        assert session.reading.read == lines and session.tie.ties
        print(
            f"{lines:,} lines by day and product: {sorted(times)[1]:.2f} s to the panel, the query alone "
            f"{sorted(bare)[1]:.2f} s; {session.source.frame.height:,} rows travelled"
        )
    except subprocess.CalledProcessError as error:
        print(error.stderr)
        raise
    finally:
        server.close()


if __name__ == "__main__":
    main()
