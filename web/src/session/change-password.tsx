import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";

/** Changes one's own password. */
export function ChangePassword({ onClose }: { onClose: () => void }) {
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const [again, setAgain] = useState("");
  const change = useMutation({
    mutationFn: () => need(api.POST("/api/session/password", { body: { old, new: next } })),
  });
  const differ = again !== "" && next !== again;
  const fields = [
    ["The password so far", old, setOld, "current-password"],
    ["The new one, at least 12 letters", next, setNext, "new-password"],
    ["The new one once more", again, setAgain, "new-password"],
  ] as const;
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Change your password">
      {change.isSuccess ? (
        <div className="flex items-center justify-between gap-4">
          <p role="status">It is changed. Other places where you were logged in are logged out.</p>
          <Button onClick={onClose}>Good</Button>
        </div>
      ) : (
        <form
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            if (next === again) change.mutate();
          }}
        >
          {fields.map(([label, value, write, kind], i) => (
            <Field key={label} label={label}>
              <input
                className={inputLook}
                type="password"
                autoComplete={kind}
                autoFocus={i === 0}
                required
                value={value}
                onChange={(event) => write(event.target.value)}
              />
            </Field>
          ))}
          {differ && <Complaint>The new one was not written the same way twice.</Complaint>}
          {change.isError && <Complaint>{change.error.message}</Complaint>}
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Not now</Button>
            <Button look="primary" type="submit" disabled={change.isPending || differ}>
              Change it
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
