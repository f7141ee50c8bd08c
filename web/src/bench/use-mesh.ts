import { queryOptions, useQuery } from "@tanstack/react-query";
import { bytes } from "../api/client";
import { unpackChanges } from "../viewer/changes";
import { loadSkin } from "../viewer/load-skin";
import { unpackMarks } from "../viewer/skin";
import { unpackSoundings } from "../viewer/soundings";

// Meshes are large: they are let go soon after the last look, and the browser's own cache,
// which may keep them for ever, brings them back.
const KEEP = { staleTime: Infinity, gcTime: 5_000 };

export const skinQuery = (revision: number | null) =>
  queryOptions({
    queryKey: ["skin", revision],
    queryFn: async ({ signal }) =>
      loadSkin(await bytes(`/api/revisions/${revision ?? 0}/skin`, signal), signal),
    enabled: revision !== null,
    structuralSharing: false,
    ...KEEP,
  });

export const useSkin = (revision: number | null) =>
  useQuery({ ...skinQuery(revision), placeholderData: (before) => before });

export const useSoundings = (examination: number | null) =>
  useQuery({
    queryKey: ["soundings", examination],
    queryFn: async ({ signal }) =>
      unpackSoundings(await bytes(`/api/examinations/${examination ?? 0}/soundings`, signal)),
    enabled: examination !== null,
    structuralSharing: false,
    ...KEEP,
  });

/** Where a revision differs from the one it was made of, or from another one it was compared with. */
export const useChanges = (revision: number | null, against: number | null) =>
  useQuery({
    queryKey: ["changes", revision, against],
    queryFn: async ({ signal }) => {
      const since = against === null ? "" : `/comparisons/${against}`;
      return unpackChanges(await bytes(`/api/revisions/${revision ?? 0}${since}/changes`, signal));
    },
    enabled: revision !== null,
    structuralSharing: false,
    ...KEEP,
  });

export const useMarks = (examination: number | null) =>
  useQuery({
    queryKey: ["marks", examination],
    queryFn: async ({ signal }) =>
      unpackMarks(await bytes(`/api/examinations/${examination ?? 0}/marks`, signal)),
    enabled: examination !== null,
    structuralSharing: false,
    ...KEEP,
  });
