import { useState } from "react";
import { Segments } from "../ui/controls";
import { SingerNotesPage } from "./SingerNotesPage";
import { TuningSheetPage } from "./TuningSheetPage";

type Page = "sheet" | "singer";

/** What was changed, and what the singer tends to do. */
export function ReportView() {
  const [page, setPage] = useState<Page>("sheet");
  const tabs = (
    <Segments<Page>
      label="Page of the report"
      options={[
        ["sheet", "Tuning sheet"],
        ["singer", "Singer notes"],
      ]}
      value={page}
      onChange={setPage}
    />
  );
  return page === "sheet" ? <TuningSheetPage tabs={tabs} /> : <SingerNotesPage tabs={tabs} />;
}
