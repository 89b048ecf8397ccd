import { useEffect, useRef } from "react";
import type { ClaimOut } from "../../document/schema";
import { DAYLIGHT, NIGHT } from "../../drawing/theme";
import { dotRadius } from "../../geometry/dot_radius";
import { useEditor } from "../../session/useStore";

const WIDTH = 300;
const HEIGHT = 100;
const EDGE = 8;
const AXIS = 40;

/** Every value behind a claim as a dot, the interval its size lies in as a band. */
export function HabitPlot({ claim }: { claim: ClaimOut }) {
  const box = useRef<HTMLDivElement>(null);
  const theme = useEditor((s) => (s.night ? NIGHT : DAYLIGHT));
  useEffect(() => {
    let over = false;
    void import("@observablehq/plot").then((Plot) => {
      if (over || !box.current) return;
      const values = claim.values.map((one) => one.value);
      const r = dotRadius(values, WIDTH - 2 * EDGE, HEIGHT - EDGE - AXIS);
      const plot = Plot.plot({
        width: WIDTH,
        height: HEIGHT,
        margin: EDGE,
        marginBottom: AXIS,
        style: { background: "transparent", color: theme.muted, fontFamily: "inherit", fontSize: "11px" },
        x: { label: claim.unit, nice: true, ticks: 5, labelAnchor: "center", labelArrow: "none" },
        marks: [
          Plot.rectX([claim], { x1: "low", x2: "high", fill: theme.tint }),
          Plot.dotX(claim.values, Plot.dodgeY({ x: "value", r, padding: 0, fill: theme.tuned, anchor: "middle" })),
          Plot.ruleX([claim.size], { stroke: theme.ink, strokeWidth: 1.5 }),
        ],
      });
      plot.setAttribute("aria-hidden", "true");
      box.current.replaceChildren(plot);
    });
    return () => {
      over = true;
    };
  }, [claim, theme]);
  const text = `${claim.of} values from ${extreme(claim, Math.min)} to ${extreme(claim, Math.max)} ${claim.unit}, their middle ${round(claim.size)}`;
  return <div ref={box} role="img" aria-label={text} style={{ width: WIDTH, height: HEIGHT }} />;
}

function extreme(claim: ClaimOut, of: (...values: number[]) => number): string {
  return round(of(...claim.values.map((one) => one.value)));
}

export function round(value: number): string {
  return (Math.abs(value) >= 10 ? value.toFixed(0) : value.toFixed(1)).replace("-", "−");
}
