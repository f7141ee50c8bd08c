/** What floats over a screen. */
export const MENU_LOOK =
  "z-30 rounded border border-rule bg-paper p-1 text-ink shadow-lg data-[state=closed]:hidden";
export const ITEM_LOOK =
  "cursor-pointer rounded px-3 py-1 outline-none data-[highlighted]:bg-paper-2 data-[state=checked]:font-[650]";
