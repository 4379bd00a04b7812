"""The API, version 1: every resource's router under one roof. An operation needs a log-in unless it says otherwise."""

from underhood_server.accounts.api import router as session
from underhood_server.accounts.people_api import router as people
from underhood_server.accounts.permission import BY_METHOD
from underhood_server.api import problems
from underhood_server.api.health import router as health
from underhood_server.api.openapi import Api
from underhood_server.api.overviews import router as overviews
from underhood_server.api.shapes import FiniteJson, FiniteParser
from underhood_server.archives.api import router as archives
from underhood_server.bench.amplifiers_api import router as amplifiers
from underhood_server.bench.tones_api import router as test_tones
from underhood_server.bench.tools_api import router as bench_tools
from underhood_server.instruments.api import router as instruments
from underhood_server.jobs.api import router as jobs
from underhood_server.jobs.documents_api import router as documents
from underhood_server.jobs.forecasts_api import router as forecasts
from underhood_server.jobs.harness_api import router as harness
from underhood_server.jobs.loads_api import router as loads
from underhood_server.jobs.supply_api import router as supply
from underhood_server.parts.api import router as drivers
from underhood_server.parts.list_api import router as parts
from underhood_server.plans.api import router as plans
from underhood_server.proof.api import router as readings
from underhood_server.proof.proofs_api import router as proofs
from underhood_server.records.api import router as records
from underhood_server.reports.api import router as reports
from underhood_server.workshop.api import router as workshop

api = Api(
    title="Under Hood",
    version="1",
    description="Amplifiers, jobs and forecasts. Lists are pages; every refusal is application/problem+json.",
    auth=BY_METHOD,
    docs_url=None,
    parser=FiniteParser(),
    renderer=FiniteJson(),
    urls_namespace="v1",
)
problems.register(api)
api.add_router("", health, tags=["server"])
api.add_router("/session", session, tags=["session"])
api.add_router("", people, tags=["people"])
api.add_router("/amplifiers", amplifiers, tags=["amplifiers"])
api.add_router("/test-tones", test_tones, tags=["bench"])
api.add_router("/parts", drivers, tags=["parts"])
api.add_router("/parts", parts, tags=["parts"])
api.add_router("/workshop-settings", workshop, tags=["workshop"])
api.add_router("", records, tags=["records"])
api.add_router("", reports, tags=["reports"])
api.add_router("/workshop-archives", archives, tags=["workshop"])
api.add_router("/jobs", jobs, tags=["jobs"])
api.add_router("", readings, tags=["readings"])
for asked in (overviews, bench_tools, documents, forecasts, loads, supply, harness, plans, proofs, instruments):
    api.add_router("", asked, tags=["questions"])
