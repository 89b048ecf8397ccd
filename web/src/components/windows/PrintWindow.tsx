import { useState } from "react";
import { Link } from "react-aria-components";
import styled from "styled-components";
import { signed } from "../../document/pitch_names";
import type { PrintSummaryOut } from "../../document/schema";
import { printFile, usePrintSummary } from "../../hooks/printing";
import { CheckBox } from "../ui/CheckBox";
import { Button, MainButton, Quiet, Segments } from "../ui/controls";
import { ProgressLine } from "../ui/ProgressLine";
import { Window } from "../ui/Window";

const Rows = styled.div`
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 10px 12px;
  align-items: center;
  & .end {
    grid-column: 1 / 3;
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    align-items: center;
  }
  & a {
    color: var(--tuned);
    font-weight: 600;
  }
  & progress {
    width: 100%;
    accent-color: var(--tuned);
  }
`;

/** What of a print is as recorded, in its place or moved, and what is rendered. */
function sharesText({ untouched_share, moved_share }: PrintSummaryOut): string {
  const percent = (share: number): string => `${(100 * share).toFixed(2)} %`;
  if (moved_share === 0) return `${percent(untouched_share)} of samples stay bit-identical`;
  const rendered = Math.max(0, 1 - untouched_share - moved_share);
  return `Bit-identical ${percent(untouched_share)} in place, ${percent(moved_share)} moved; ${percent(rendered)} rendered`;
}

export function PrintWindow({ onClose }: { onClose: () => void }) {
  const summary = usePrintSummary();
  const [container, setContainer] = useState<"wav" | "flac">("wav");
  const [bits, setBits] = useState<string | null>(null);
  const [lower, setLower] = useState(false);
  const [work, setWork] = useState<{ share: number; url: string | null; text: string } | null>(null);
  const chosen = bits ?? String(summary?.usual_bits ?? 24);
  const over = summary ? summary.peak_dbfs : 0;
  const start = (): void => {
    const lower_db = lower && over > 0 ? Math.ceil(over * 10) / 10 : 0;
    void printFile({ container, bits: Number(chosen) as 16 | 24 | 32, lower_db }, setWork);
  };
  return (
    <Window title="Print" open onClose={onClose}>
      <Rows>
        <span>File</span>
        <Segments
          label="File type"
          options={[
            ["wav", "WAV"],
            ["flac", "FLAC"],
          ]}
          value={container}
          onChange={(next) => {
            setContainer(next);
            if (next === "flac" && chosen === "32") setBits("24");
          }}
        />
        <span>Depth</span>
        <Segments
          label="Depth"
          options={
            container === "wav"
              ? [
                  ["16", "16 bit"],
                  ["24", "24 bit"],
                  ["32", "32-bit float"],
                ]
              : [
                  ["16", "16 bit"],
                  ["24", "24 bit"],
                ]
          }
          value={chosen}
          onChange={setBits}
        />
        <Quiet>Untouched</Quiet>
        <strong>{summary ? sharesText(summary) : "…"}</strong>
        <Quiet>Changed</Quiet>
        <span>{summary ? `${summary.notes_changed} notes; air and gaps: ${summary.air_changed}` : "…"}</span>
        <Quiet>Peak</Quiet>
        <span>{summary ? `${signed(summary.peak_dbfs, 1)} dBFS` : "…"}</span>
        {over > 0 && (
          <>
            <span />
            <CheckBox
              checked={lower}
              onChange={setLower}
            >{` lower the whole print by ${(Math.ceil(over * 10) / 10).toFixed(1)} dB (or keep 32-bit float)`}</CheckBox>
          </>
        )}
        <span className="end">
          {work && !work.url && <ProgressLine label="Printing" share={work.share} />}
          {work?.url && (
            <Link href={work.url} download>
              {work.text}
            </Link>
          )}
          <Button onPress={onClose}>Close</Button>
          <MainButton onPress={start} isDisabled={summary === null || (work !== null && !work.url)}>
            Print
          </MainButton>
        </span>
      </Rows>
    </Window>
  );
}
