import { signOut } from "../../commands/signing_in";
import { useSignedIn } from "../../hooks/access";
import { Button, Quiet } from "../ui/controls";

/** Who this browser is signed in as, on a server that wants a code. */
export function SignedIn() {
  const state = useSignedIn();
  if (!state?.needed || !state.signed_in) return null;
  return (
    <>
      <Quiet>{state.may_change ? `Signed in as ${state.name}` : `Signed in as ${state.name}, to listen`}</Quiet>
      <Button onPress={() => void signOut()}>Sign out</Button>
    </>
  );
}
