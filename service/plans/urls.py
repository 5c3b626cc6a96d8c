from django.urls import path

from service.plans import places, views

urlpatterns = [
    path("plans", views.PlanList.as_view()),
    path("plans/<int:pk>", views.PlanDetail.as_view()),
    path("plans/<int:pk>/quick", views.PlanQuick.as_view()),
    path("plans/<int:pk>/cancel", views.PlanCancel.as_view()),
    path("plans/<int:pk>/frontier", views.PlanFrontier.as_view()),
    path("plans/<int:pk>/try", views.PlanTry.as_view()),
    path("plans/<int:pk>/acknowledge", views.PlanAcknowledge.as_view()),
    path("plans/<int:pk>/acknowledge/<str:code>", views.PlanAcknowledged.as_view()),
    path("plans/<int:pk>/recipe", views.PlanRecipe.as_view()),
    path("plans/<int:pk>/copy", views.PlanCopy.as_view()),
    path("plans/<int:pk>/slices", views.PlanSlices.as_view()),
    path("slices/<int:pk>/verdict", views.SliceVerdict.as_view()),
    path("slices/<int:pk>/photo", views.SlicePhoto.as_view()),
    path("plans/<int:pk>/vase", places.PlanVase.as_view()),
    path("plans/<int:pk>/regions", places.PlanRegions.as_view()),
    path("plans/<int:pk>/here", places.PlanHere.as_view()),
    path("plans/<int:pk>/write-back", places.PlanWriteBack.as_view()),
    path("bands/repeat", places.BandsRepeat.as_view()),
    path("bands/merge", places.BandsMerge.as_view()),
    path("plans/<int:pk>/shape", views.PlanShape.as_view()),
    path("versions/<int:pk>", views.VersionDetail.as_view()),
    path("versions/<int:pk>/moves", views.VersionMoves.as_view()),
]
