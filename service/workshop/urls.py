from django.urls import path

from service.workshop import recipes, views

urlpatterns = [
    path("workshop", views.WorkshopView.as_view()),
    path("machines", views.MachineList.as_view()),
    path("machines/<int:pk>", views.MachineDetail.as_view()),
    path("materials", views.MaterialList.as_view()),
    path("spools/<int:pk>", views.SpoolDetail.as_view()),
    path("recipes", recipes.RecipeList.as_view()),
    path("recipes/<int:pk>", recipes.RecipeDetail.as_view()),
    path("settings", views.SettingsView.as_view()),
]
