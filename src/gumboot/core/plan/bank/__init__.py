"""What can the bank give, which link is weakest, and is its fault current held?

``supply`` is what the cells hold and give; ``fits`` asks whether battery, inverter, count, place and devices go together; ``chain``
joins cells, leads, bars and devices and finds the weakest link; ``shares`` solves what each battery carries; ``cold`` what is left in winter.
"""

from gumboot.core.plan.bank.chain import BankPlan, Link, plan_bank
from gumboot.core.plan.bank.supply import BankSupply, bank_nominal_v, bank_volts, plan_supply

__all__ = ["BankPlan", "BankSupply", "Link", "bank_nominal_v", "bank_volts", "plan_bank", "plan_supply"]
