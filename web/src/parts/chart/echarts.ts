/** Of ECharts only what is drawn here, so that no more of it is loaded; and only once a chart is shown. */

import { BarChart, LineChart } from "echarts/charts";
import { AriaComponent, GridComponent, TooltipComponent } from "echarts/components";
import { init, use } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";

use([BarChart, LineChart, GridComponent, TooltipComponent, AriaComponent, SVGRenderer]);

export { init };
