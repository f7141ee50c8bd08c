import { Mark } from "../ui/mark";
import { LoginFields } from "./login-fields";
import { useLogin } from "./use-login";

export function Login() {
  const login = useLogin();
  return (
    <main className="grid h-full grid-cols-[1fr_420px]">
      <div className="dock flex flex-col justify-end p-12 text-chalk">
        <p className="max-w-md text-title font-[650]">Tight before it prints.</p>
        <p className="mt-2 max-w-md opacity-85">
          Every mesh that comes in is examined, mended with an account of what changed, read back as
          it will be delivered, and only then released.
        </p>
      </div>
      <LoginFields login={login} username="" className="justify-center bg-paper p-12">
        <h1 className="mb-2 flex items-center gap-2 text-title font-[650]">
          <Mark /> Ironcaulk
        </h1>
      </LoginFields>
    </main>
  );
}
