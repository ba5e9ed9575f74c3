from django.urls import path, re_path

from hewel.api import api
from hewel.views import healthy, page

urlpatterns = [
    path("api/", api.urls),
    path("healthy", healthy),
    re_path(r"^(?!api/|assets/).*$", page),
]
