"""Paths of this area, below the API's prefix."""

from harquel.service.operations.http import routes

from .check_model import check_model
from .list_models import list_models

urlpatterns = routes({"models": {"GET": list_models}, "models/<str:model>/check": {"POST": check_model}})
