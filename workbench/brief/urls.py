"""Brief: vehicle and supply, plan, survey, cluster, shopping list."""

from django.urls import path

from workbench.brief import estimate_views, vehicle_views, views

app_name = "brief"
urlpatterns = [
    path("", vehicle_views.show, name="show"),
    path("supply/", vehicle_views.supply, name="supply"),
    path("channels/add/", vehicle_views.channel_add, name="channel_add"),
    path("channels/name/", vehicle_views.channel_name, name="channel_name"),
    path("channels/remove/", vehicle_views.channel_remove, name="channel_remove"),
    path("plan/", views.plan, name="plan"),
    path("plan/aims/", views.set_aims, name="aims"),
    path("plan/add/", views.add_proposed, name="add_proposed"),
    path("plan/source/", views.source, name="source"),
    path("plan/answer/", views.answer, name="answer"),
    path("survey/", views.survey, name="survey"),
    path("cluster/", views.cluster, name="cluster"),
    path("cluster/start/", views.cluster_start, name="cluster_start"),
    path("cluster/item/", views.cluster_item, name="cluster_item"),
    path("shopping/", views.shopping, name="shopping"),
    path("shopping/kit/", views.kit, name="kit"),
    path("estimate/", estimate_views.show, name="estimate"),
    path("estimate/rate/", estimate_views.rate, name="rate"),
    path("estimate/way/", estimate_views.way_add, name="way_add"),
    path("estimate/way/remove/", estimate_views.way_remove, name="way_remove"),
    path("estimate/pdf/", estimate_views.paper, name="estimate_paper"),
    path("shopping/csv/", views.shopping_csv, name="shopping_csv"),
]
