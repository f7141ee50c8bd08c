import { createContext, useContext } from "react";
import type { Person } from "../api/client";

/** Who works here; stays while a session that has ended waits for its password. */
export const WorkingPerson = createContext<Person | null>(null);

export const useWorkingPerson = () => useContext(WorkingPerson);
