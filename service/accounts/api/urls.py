from django.urls import path

from service.accounts.api.session import SessionView

urlpatterns = [path("session", SessionView.as_view())]
