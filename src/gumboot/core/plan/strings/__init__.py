"""What voltage and current does each PV input see, coldest and hottest, and how many modules may it take?

``voltages`` and ``currents`` work out one input in any workbook, for a plan as for a layout that is only thought of; ``optimised`` is
an input whose modules have optimisers; ``station`` goes through the inputs of a job.
"""

from gumboot.core.plan.strings.parts import StringsPlan, TrackerPlan
from gumboot.core.plan.strings.station import plan_strings

__all__ = ["StringsPlan", "TrackerPlan", "plan_strings"]
