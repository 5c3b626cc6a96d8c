from django.urls import path

from service.accounts.views import SessionView

urlpatterns = [path("session", SessionView.as_view())]
