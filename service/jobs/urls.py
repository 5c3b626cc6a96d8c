from django.urls import path

from service.jobs import board, views

urlpatterns = [
    path("board", board.Board.as_view()),
    path("jobs", views.JobList.as_view()),
    path("jobs/<int:pk>", views.JobDetail.as_view()),
    path("jobs/<int:pk>/file", views.JobFile.as_view()),
    path("jobs/<int:pk>/flow", views.JobFlow.as_view()),
    path("jobs/<int:pk>/order", views.JobOrder.as_view()),
    path("jobs/<int:pk>/outcome", views.JobOutcome.as_view()),
    path("jobs/<int:pk>/photo", views.JobPhoto.as_view()),
    path("jobs/<int:pk>/place", views.JobPlace.as_view()),
    path("jobs/<int:pk>/reprint", views.JobReprint.as_view()),
    path("jobs/<int:pk>/slip", views.JobSlip.as_view()),
    path("jobs/<int:pk>/spool", views.JobSpool.as_view()),
    path("machines/<int:pk>/clear", views.MachineClear.as_view()),
    path("machines/<int:pk>/learnt", views.MachineLearnt.as_view()),
    path("versions/<int:pk>/name", views.VersionName.as_view()),
    path("versions/<int:pk>/review", views.VersionReview.as_view()),
]
