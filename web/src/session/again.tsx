import type { Person } from "../api/client";
import { Dialog } from "../ui/dialog";
import { LoginFields } from "./login-fields";
import { useLogin } from "./use-login";

/** Over a screen whose session has ended: logging in goes on where it was. */
export function LogInAgain({ person }: { person: Person }) {
  const login = useLogin((session) => {
    const another = session.person?.username !== person.username;
    // somebody else: nothing of the one before stays on the screen
    if (another) window.location.assign("/");
    return another;
  });
  return (
    <Dialog
      open
      onOpenChange={() => undefined}
      title="Your session has ended"
      about="Log in again and go on: the screen and what you wrote are still here."
    >
      <LoginFields login={login} username={person.username} />
    </Dialog>
  );
}
