"""Where each page stands."""

from django.urls import include, path

from muster.web.ui import way_in, working

urlpatterns = [
    path("", include("muster.web.jobs.urls")),
    path("jobs/<int:job_id>/brief/", include("muster.web.brief.urls")),
    path("jobs/<int:job_id>/roll/", include("muster.web.roll.urls")),
    path("jobs/<int:job_id>/source/", include("muster.web.source.urls")),
    path("jobs/<int:job_id>/sheet/", include("muster.web.sheet.urls")),
    path("jobs/<int:job_id>/gates/", include("muster.web.gates.urls")),
    path("jobs/<int:job_id>/bench/", include("muster.web.bench.urls")),
    path("jobs/<int:job_id>/findings/", include("muster.web.findings.urls")),
    path("jobs/<int:job_id>/day/", include("muster.web.day.urls")),
    path("jobs/<int:job_id>/verdict/", include("muster.web.verdict.urls")),
    path("jobs/<int:job_id>/compare/", include("muster.web.compare.urls")),
    path("kit/", include("muster.web.kit.urls")),
    path("shelf/", include("muster.web.shelf.urls")),
    path("sums/", include("muster.web.sums.urls")),
    path("rehearsal/", include("muster.web.rehearsal.urls")),
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
