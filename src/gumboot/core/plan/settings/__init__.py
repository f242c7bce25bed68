"""What is set in the inverter, and why each value?

``line`` is one line of the sheet, ``limits`` the currents, ``thresholds`` the voltages, ``tariff`` the hours, ``sheet`` all of them.
"""

from gumboot.core.plan.settings.line import Setting
from gumboot.core.plan.settings.sheet import ChargeRuler, SettingsPlan, plan_settings, supply_of
from gumboot.core.plan.settings.tariff import window_halves, window_months
from gumboot.core.plan.settings.thresholds import ORDER

__all__ = ["ORDER", "ChargeRuler", "Setting", "SettingsPlan", "plan_settings", "supply_of", "window_halves", "window_months"]
