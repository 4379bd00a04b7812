"""The API: every place's router under one roof. Each operation needs a log-in unless it says otherwise."""

from ninja import NinjaAPI
from ninja.security import django_auth

from underhood_server.accounts.api import router as accounts
from underhood_server.api import problems
from underhood_server.bench.api import router as bench
from underhood_server.bench.tones_api import router as tones
from underhood_server.bench.tools_api import router as bench_tools
from underhood_server.jobs.api import router as jobs
from underhood_server.jobs.cable_api import router as cables
from underhood_server.jobs.load_api import router as loads
from underhood_server.jobs.supply_api import router as supply
from underhood_server.parts.api import router as parts
from underhood_server.workshop.api import router as shop

api = NinjaAPI(
    title="Under Hood",
    version="1",
    description="Amplifiers, jobs and forecasts. Errors are application/problem+json.",
    auth=django_auth,
    docs_url=None,
)
problems.register(api)
api.add_router("/session", accounts, tags=["session"])
api.add_router("/amplifiers", bench, tags=["bench"])
api.add_router("/bench", bench_tools, tags=["bench"])
api.add_router("/tones", tones, tags=["tones"])
api.add_router("/parts", parts, tags=["parts"])
api.add_router("/shop", shop, tags=["shop"])
api.add_router("", cables, tags=["jobs"])
api.add_router("", loads, tags=["jobs"])
api.add_router("", supply, tags=["jobs"])
api.add_router("", jobs, tags=["jobs"])
