"""What can the bank give, which link is weakest, and is its fault current held?

``one`` is a bank as its questions are asked; ``supply`` is what the cells hold and give; ``fits`` asks whether battery, inverter, count,
place and devices go together; ``chain`` joins cells, leads, bars and devices and finds the weakest link; ``shares`` solves what each
battery carries; ``cold`` what is left in winter.
"""

from gumboot.core.plan.bank.chain import BankPlan, Link, plan_banks
from gumboot.core.plan.bank.one import OneBank, bank_of, banks_of
from gumboot.core.plan.bank.supply import BankSupply, Supplies, plan_supply, together

__all__ = ["BankPlan", "BankSupply", "Link", "OneBank", "Supplies", "bank_of", "banks_of", "plan_banks", "plan_supply", "together"]
