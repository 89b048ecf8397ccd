import styled from "styled-components";

const Shape = styled.svg`
  flex: none;
  width: 18px;
  height: 18px;
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
`;

/** What a track is, as a shape without a colour: a lead is full, a double twice, a harmony beside, a backing a ground. */
export function RoleShape({ role }: { role: string }) {
  return (
    <Shape viewBox="0 0 18 18" aria-hidden="true">
      {role === "lead" && <path d="M9 2 L16 9 L9 16 L2 9 Z" fill="var(--ink)" />}
      {role === "double" && <path d="M6.5 3.5 L12 9 L6.5 14.5 L1 9 Z M11.5 3.5 L17 9 L11.5 14.5 L6 9 Z" />}
      {role === "harmony" && <path d="M3 11.5 H11 M7 6.5 H15" strokeWidth="3" strokeLinecap="round" />}
      {role === "backing" && <path d="M2.5 4.5 H15.5 V13.5 H2.5 Z" />}
    </Shape>
  );
}
