import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

type Props = {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  about?: string;
  wide?: boolean;
  /** As wide as the window lets it be. */
  widest?: boolean;
  children: ReactNode;
};

export function Dialog({ open, onOpenChange, title, about, wide, widest, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-30 bg-ink/50" />
        <Radix.Content
          aria-describedby={about ? undefined : ""}
          className={`fixed left-1/2 top-[10vh] z-40 max-h-[80vh] -translate-x-1/2 overflow-auto rounded border border-rule bg-paper p-5 shadow-xl ${widest ? "w-[min(960px,94vw)]" : wide ? "w-[640px]" : "w-[460px]"}`}
        >
          <Radix.Title className="text-verdict font-[650]">{title}</Radix.Title>
          {about && <Radix.Description className="mt-1 text-ink-2">{about}</Radix.Description>}
          <div className="mt-4">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
