"""Property tests draw new examples on a desk and the same ones each time in CI; how long a machine takes is no matter for a test."""

import gc
import os

from hypothesis import HealthCheck, settings

settings.register_profile("desk", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("ci", settings.get_profile("desk"), derandomize=True)
settings.load_profile("ci" if os.environ.get("CI") else "desk")


def pytest_collection_finish() -> None:
    """Set apart what stays until the end: a collector that passes over it again and again takes a tenth of the time."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
