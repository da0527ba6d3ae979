"""Addresses of every page."""

from django.urls import include, path

from muster.web.ui import old_addresses, way_in, working

urlpatterns = [
    path("", include("muster.web.jobs.urls")),
    path("jobs/<int:job_id>/brief/", include("muster.web.brief.urls")),
    path("jobs/<int:job_id>/loads/", include("muster.web.loads.urls")),
    path("jobs/<int:job_id>/source/", include("muster.web.source.urls")),
    path("jobs/<int:job_id>/plan/", include("muster.web.plan.urls")),
    path("jobs/<int:job_id>/safety/", include("muster.web.safety.urls")),
    path("jobs/<int:job_id>/bench/", include("muster.web.bench.urls")),
    path("jobs/<int:job_id>/series/", include("muster.web.series.urls")),
    path("jobs/<int:job_id>/findings/", include("muster.web.findings.urls")),
    path("jobs/<int:job_id>/outage/", include("muster.web.outage.urls")),
    path("jobs/<int:job_id>/verdict/", include("muster.web.verdict.urls")),
    path("jobs/<int:job_id>/compare/", include("muster.web.compare.urls")),
    path("kit/", include("muster.web.kit.urls")),
    path("shelf/", include("muster.web.shelf.urls")),
    path("calculators/", include("muster.web.calculators.urls")),
    *old_addresses.urlpatterns,
    path("let-in/", way_in.another, name="another-browser"),
    path("in/<str:token>/", way_in.come_in, name="come-in"),
    path("work/", working.look, name="work-look"),
    path("work/<int:work_id>/", working.work, name="work"),
    path("work/<int:work_id>/stop/", working.stop, name="work-stop"),
    path("work/<int:work_id>/again/", working.again, name="work-again"),
    path("work/<int:work_id>/file/", working.fetch, name="work-file"),
]
handler404 = "muster.web.jobs.views.not_found"
handler500 = "muster.web.jobs.views.went_wrong"
