import type { EChartsCoreOption, EChartsType } from "echarts/core";
import { useEffect, useRef } from "react";

/** The colours of the theme that is on, by what they are for. */
export interface Inks {
  text: string;
  faint: string;
  line: string;
  first: string;
  second: string;
}

function inks(): Inks {
  const style = getComputedStyle(document.documentElement);
  const of = (name: string) => style.getPropertyValue(name).trim();
  return {
    text: of("--ink-2"),
    faint: of("--ink-3"),
    line: of("--line-2"),
    first: of("--s2"),
    second: of("--s3"),
  };
}

interface Props {
  /** What it shows, in a sentence: read out in its place. */
  label: string;
  /** What is drawn, in the colours of the theme; the same function for the same data. */
  draw: (inks: Inks) => EChartsCoreOption;
  height: number;
}

/** A chart; beside or below it stands a list that says the same. */
export function Chart({ label, draw, height }: Props) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    let chart: EChartsType | undefined;
    let gone = false;
    const redraw = () =>
      chart?.setOption({ animation: false, ...draw(inks()), aria: { enabled: false } }, { notMerge: true });
    const sized = new ResizeObserver(() => chart?.resize());
    const themed = new MutationObserver(redraw);
    void import("./echarts").then(({ init }) => {
      if (gone) return;
      chart = init(element, null, { renderer: "svg", height });
      redraw();
      sized.observe(element);
      themed.observe(document.documentElement, { attributeFilter: ["data-theme"] });
    });
    return () => {
      gone = true;
      sized.disconnect();
      themed.disconnect();
      chart?.dispose();
    };
  }, [draw, height]);
  return <div ref={place} role="img" aria-label={label} style={{ height }} />;
}

/** Axes as Tarn draws them: days or names along the bottom, numbers at the side. */
export function axes(ink: Inks) {
  const words = { color: ink.text, fontSize: 11.5, fontFamily: "inherit" };
  return {
    words,
    grid: { left: 8, right: 12, top: 10, bottom: 4, containLabel: true },
    names: {
      axisLabel: words,
      axisTick: { show: false },
      axisLine: { lineStyle: { color: ink.line } },
    },
    numbers: {
      axisLabel: words,
      splitLine: { lineStyle: { color: ink.line } },
      minInterval: 1,
    },
    tooltip: { trigger: "axis", axisPointer: { type: "shadow" }, confine: true },
  };
}
