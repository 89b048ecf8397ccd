import type { Offered } from "../../../document/track/store";
import { useEditor } from "../../../session/useStore";
import { Button, Quiet } from "../../ui/controls";

/** What stands where nothing is heard yet: that it is being listened for, or that this failed and can be tried again. */
export function Listening({ what, again }: { what: Offered; again: () => void }) {
  const failed = useEditor((s) => s.unheard.has(what));
  if (!failed) return <Quiet>listening…</Quiet>;
  return (
    <>
      <Quiet>could not be heard</Quiet>
      <Button onPress={again} aria-label={`Listen for the ${what} again`}>
        Listen again
      </Button>
    </>
  );
}
