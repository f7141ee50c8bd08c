import { create } from "zustand";

type Drafts = {
  texts: Readonly<Record<string, string>>;
  write: (key: string, text: string) => void;
};

/** What somebody has begun to write, by what it is about; it outlives whatever arrives meanwhile. */
export const useDrafts = create<Drafts>((set) => ({
  texts: {},
  write: (key, text) =>
    set(({ texts }) => {
      const others = Object.fromEntries(Object.entries(texts).filter(([one]) => one !== key));
      return { texts: text ? { ...others, [key]: text } : others };
    }),
}));

/** One text that is being written, and what changes it. */
export function useDraft(key: string): [text: string, write: (text: string) => void] {
  const text = useDrafts((drafts) => drafts.texts[key] ?? "");
  const write = useDrafts((drafts) => drafts.write);
  return [text, (next) => write(key, next)];
}
