"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import routes

from .read_usage import read_usage

urlpatterns = routes({"usage": {"GET": read_usage}})
