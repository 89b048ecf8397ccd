import { useEffect, useState } from "react";
import type { TunePassOut } from "../../document/schema";
import { trackOf } from "../../document/track/store";
import { loadPasses, settingsOf } from "../../commands/notes/passes";
import { clearBreaths, editTracks } from "../../commands/stack";
import { useEditor } from "../../session/useStore";
import { fitSong, showWindow } from "../../session/view";
import { type Action, ActionMenu } from "../ui/ActionMenu";
import { Button, Quiet } from "../ui/controls";
import { ToolLine } from "../ui/ToolLine";

/** Edits of all chosen tracks at once, and voices made of the open one. */
export function StackTools() {
  const chosen = useEditor((s) => s.chosenTracks);
  const song = useEditor((s) => s.song);
  const open = useEditor((s) => trackOf(s)?.name) ?? "the open track";
  const [passes, setPasses] = useState<TunePassOut[]>([]);
  useEffect(() => void loadPasses().then(setPasses), []);
  const ids = song?.tracks.filter((track) => chosen.has(track.id)).map((track) => track.id) ?? [];
  const none = ids.length === 0;
  const tune = passes.map((pass): Action => [
    pass.name,
    () => void editTracks({ type: "tune_pass", note_ids: [], ...settingsOf(pass) }, ids),
  ]);
  const make: Action[] = [
    [`A double of ${open}…`, () => showWindow("double")],
    [`A harmony of ${open}…`, () => showWindow("harmony")],
  ];
  return (
    <ToolLine role="toolbar" aria-label="Chosen tracks">
      <Quiet aria-live="polite">
        {none
          ? "Choose tracks to edit them together"
          : ids.length === 1
            ? "1 track chosen"
            : `${ids.length} tracks chosen`}
      </Quiet>
      <Button isDisabled={none} onPress={() => showWindow("follow_stack")}>
        Follow…
      </Button>
      <ActionMenu label="Tune pass over the chosen tracks" text="Tune pass…" actions={tune} disabled={none} />
      <Button isDisabled={none} onPress={() => void clearBreaths(ids)}>
        Remove breaths
      </Button>
      <Button isDisabled={none} onPress={() => void editTracks({ type: "put_back", note_ids: [], aspect: "all" }, ids)}>
        Put back as sung
      </Button>
      <span className="room" />
      <ActionMenu label="Make a track" text="Make…" actions={make} />
      <Button onPress={() => showWindow("song_steps")}>Song's steps…</Button>
      <Button onPress={fitSong}>Whole song</Button>
    </ToolLine>
  );
}
