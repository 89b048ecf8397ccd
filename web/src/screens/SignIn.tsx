import { useState } from "react";
import styled from "styled-components";
import { Field, MainButton, Panel, Quiet } from "../components/ui/controls";
import { signIn } from "../commands/signing_in";

const Layout = styled.main`
  display: grid;
  place-items: center;
  min-height: 100%;
  padding: 20px;
`;

const Card = styled(Panel)`
  width: min(420px, 100%);
  padding: 22px 24px 26px;
  gap: 12px;
  & h1 {
    font-size: 24px;
    font-weight: 650;
    margin: 0;
  }
  & form {
    display: flex;
    gap: 8px;
  }
  & [role="alert"] {
    margin: 0;
    color: var(--flag);
  }
`;

/** Where a browser on another machine types the code that lets it in. */
export function SignIn() {
  const [code, setCode] = useState("");
  const [trouble, setTrouble] = useState("");
  return (
    <Layout>
      <Card as="section" aria-label="Sign in">
        <h1>Glass Thread</h1>
        <Quiet>Type the sign-in code. It was shown where the program was started.</Quiet>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void signIn(code).then(setTrouble);
          }}
        >
          <Field
            autoFocus
            aria-label="Sign-in code"
            autoComplete="current-password"
            spellCheck={false}
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
          <MainButton type="submit" isDisabled={code.trim() === ""}>
            Sign in
          </MainButton>
        </form>
        {trouble && <p role="alert">{trouble}</p>}
      </Card>
    </Layout>
  );
}
