from django.urls import path

from service.jobs import views

urlpatterns = [
    path("jobs", views.JobList.as_view()),
    path("jobs/<int:pk>/file", views.JobFile.as_view()),
    path("jobs/<int:pk>/outcome", views.JobOutcome.as_view()),
    path("machines/<int:pk>/learnt", views.MachineLearnt.as_view()),
    path("versions/<int:pk>/name", views.VersionName.as_view()),
]
