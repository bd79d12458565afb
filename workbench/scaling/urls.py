"""Scaling: curve, table, what will it show."""

from django.urls import path

from workbench.scaling.bench import cards, curve, kept, page, runs, table
from workbench.scaling.error import views as error
from workbench.scaling.fuel import views as fuel
from workbench.scaling.measured import views as measured
from workbench.scaling.menu import views as menu
from workbench.scaling.points import views as points
from workbench.scaling.suits import views as suits
from workbench.scaling.warnings import views as warnings

app_name = "scaling"
urlpatterns = [
    path("", page.show, name="show"),
    path("curve/", curve.curve, name="curve"),
    path("table/", table.table, name="table"),
    path("table/confirm/", table.confirm, name="confirm"),
    path("rows/", table.rows, name="rows"),
    path("rows/how-many/", table.how_many, name="how_many"),
    path("row/", table.row_move, name="row_move"),
    path("row/try/", table.tried, name="tried"),
    path("card/", table.card, name="card"),
    path("read-back/", table.read_back, name="read_back"),
    path("count-from/", curve.count_from, name="count_from"),
    path("branch/", curve.branch, name="branch"),
    path("bench/", kept.save, name="bench"),
    path("shift/", kept.shift, name="shift"),
    path("run/", runs.run_add, name="run_add"),
    path("run/record/", runs.run_record, name="run_record"),
    path("run/remove/", runs.run_remove, name="run_remove"),
    path("speed-setting/", runs.setting_take, name="setting_take"),
    path("tank-curve/", kept.tank_curve, name="tank_curve"),
    path("gap/", cards.gap, name="gap"),
    path("tyres/", cards.tyres, name="tyres"),
    path("boost/", cards.boost_of, name="boost"),
    path("measured/", measured.show, name="measured"),
    path("measured/add/", measured.add, name="measured_add"),
    path("measured/remove/", measured.remove, name="measured_remove"),
    path("measured/thousand/", measured.thousand, name="measured_thousand"),
    path("measured/take/", measured.take, name="measured_take"),
    path("error/", error.show, name="error"),
    path("suits/", suits.show, name="suits"),
    path("suits/match/", suits.match, name="match"),
    path("points/", points.show, name="points"),
    path("points/save/", points.save, name="points_save"),
    path("warnings/", warnings.show, name="warnings"),
    path("warnings/save/", warnings.save, name="warnings_save"),
    path("menu/", menu.show, name="menu"),
    path("menu/save/", menu.save, name="menu_save"),
    path("menu/entry/", menu.entry, name="menu_entry"),
    path("menu/entry/remove/", menu.entry_remove, name="menu_entry_remove"),
    path("menu/paper/", menu.paper, name="menu_paper"),
    path("fuel/", fuel.show, name="fuel"),
    path("fuel/ceiling/", fuel.ceiling, name="fuel_ceiling"),
    path("shown/", page.shown, name="shown"),
]
