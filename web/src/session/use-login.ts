import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, need, type Session } from "../api/client";
import { tellOtherTabs } from "./tabs";

type Given = { username: string; password: string };

/** Logs in; what was refused meanwhile is asked for again. */
export function useLogin(instead?: (session: Session) => boolean) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Given) => need(api.POST("/api/session", { body })),
    onSuccess: async (session) => {
      if (instead?.(session)) return;
      queries.setQueryData(["session"], session);
      tellOtherTabs();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });
    },
  });
}
