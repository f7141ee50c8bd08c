import { useState } from "react";
import { useNavigate } from "react-router";
import type { Person } from "../api/client";
import { Button } from "../ui/button";
import { KeyList, type KeyLine } from "../ui/key-list";
import { useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { Places } from "../ui/places";
import { useTitle } from "../ui/title";
import { TopBar } from "../ui/top-bar";
import { Entries } from "./entries";
import { useShopTrail } from "./queries";

const KEYS: readonly KeyLine[] = [
  ["O", "Back to the orders"],
  ["⇧J", "Materials and their rules"],
  ["?", "These keys"],
];

/** All that happened in the shop; the lead reads it. */
export default function TrailScreen({ person }: { person: Person }) {
  const trail = useShopTrail();
  useTitle("Trail");
  const [keysShown, setKeysShown] = useState(false);
  const navigate = useNavigate();
  useKeys({
    o: () => void navigate("/"),
    "shift+j": () => void navigate("/materials"),
    "?": () => setKeysShown(true),
  });
  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <Places person={person} here="/trail" />
      </TopBar>
      <main className="mx-auto flex min-h-0 w-full max-w-[1000px] flex-1 flex-col px-6">
        <header className="flex items-baseline gap-4 py-4">
          <h1 className="text-verdict font-[650]">What happened</h1>
          <p className="flex-1 text-ink-2">The database keeps it, and lets nobody change it.</p>
          <a href="/api/trail/file" download className="text-blue hover:underline">
            Take all of it away as a table
          </a>
        </header>
        {trail.isError && !trail.data ? (
          <Notice title="The trail cannot be shown.">{trail.error.message}</Notice>
        ) : trail.data ? (
          <div className="min-h-0 flex-1 overflow-auto border-t border-rule pb-6">
            <Entries entries={trail.data.pages.flat()} linked />
            {trail.hasNextPage && (
              <Button
                className="mt-3"
                disabled={trail.isFetchingNextPage}
                onClick={() => void trail.fetchNextPage()}
              >
                Earlier
              </Button>
            )}
          </div>
        ) : (
          <Notice title="Fetching the trail…" />
        )}
      </main>
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}
