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
