import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { ApiProblem, api } from "../../api/client";
import { Button, Input, Trouble } from "../../ui/controls";

export function SignIn() {
  const client = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [trouble, setTrouble] = useState<ApiProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const send = async () => {
    setBusy(true);
    setTrouble(null);
    try {
      client.setQueryData(["session"], await api.signIn(username, password));
    } catch (e) {
      if (e instanceof ApiProblem) setTrouble(e);
      else throw e;
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="grid h-full place-items-center">
      <form
        className="w-80 space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          void send();
        }}
      >
        <header>
          <h1 className="text-3xl font-bold [font-stretch:115%]">Hewel</h1>
          <div className="mt-1 h-1 w-12 bg-crown" />
          <p className="mt-3 text-second">Adapting parts for batch printing: direction, overhangs, walls, strength, batch.</p>
        </header>
        <Input label="Name" autoComplete="username" autoFocus required value={username} onChange={(e) => setUsername(e.target.value)} />
        <Input label="Password" type="password" autoComplete="current-password" required value={password} onChange={(e) => setPassword(e.target.value)} />
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        <Button type="submit" disabled={busy}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
