from django.urls import path

from service.parts.api import parts as views

urlpatterns = [
    path("parts", views.PartList.as_view()),
    path("parts/file", views.PartsFile.as_view()),
    path("parts/labels", views.PartLabels.as_view()),
    path("parts/<int:pk>", views.PartDetail.as_view()),
    path("parts/<int:pk>/again", views.PartAgain.as_view()),
    path("parts/<int:pk>/picture", views.PartPicture.as_view()),
    path("parts/<int:pk>/file", views.PartFile.as_view()),
]
