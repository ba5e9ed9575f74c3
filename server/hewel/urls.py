from django.urls import path, re_path

from hewel.api import api
from hewel.signs import healthy, metrics
from hewel.views import page

urlpatterns = [
    path("api/", api.urls),
    path("healthy", healthy),
    path("metrics", metrics),
    re_path(r"^(?!api/|assets/).*$", page),
]

handler400 = "hewel.errors.bad_request"
handler403 = "hewel.errors.forbidden"
handler404 = "hewel.errors.not_found"
handler500 = "hewel.errors.server_error"
