from django.urls import path

from service.workshop.api import exchange, machines, materials, recipes
from service.workshop.api import workshop as views

urlpatterns = [
    path("workshop", views.WorkshopView.as_view()),
    path("workshop/export", exchange.WorkshopExport.as_view()),
    path("workshop/import", exchange.WorkshopImport.as_view()),
    path("workshop/schema", exchange.WorkshopSchema.as_view()),
    path("machines", machines.MachineList.as_view()),
    path("machines/<int:pk>", machines.MachineDetail.as_view()),
    path("machines/<int:pk>/nozzles", machines.NozzleList.as_view()),
    path("nozzles/<int:pk>", machines.NozzleDetail.as_view()),
    path("fits", machines.Fits.as_view()),
    path("template-fields", machines.TemplateFieldsView.as_view()),
    path("materials", materials.MaterialList.as_view()),
    path("materials/<int:pk>", materials.MaterialDetail.as_view()),
    path("materials/<int:pk>/dial", materials.MaterialDial.as_view()),
    path("materials/<int:pk>/spools", materials.SpoolList.as_view()),
    path("spools/<int:pk>", materials.SpoolDetail.as_view()),
    path("spools/<int:pk>/ledger", materials.SpoolLedger.as_view()),
    path("spools/<int:pk>/weigh", materials.SpoolWeigh.as_view()),
    path("recipes", recipes.RecipeList.as_view()),
    path("recipes/<int:pk>", recipes.RecipeDetail.as_view()),
    path("settings", views.SettingsView.as_view()),
]
