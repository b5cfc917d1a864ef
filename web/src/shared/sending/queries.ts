import { useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";

// Everything below "outbox" is reloaded when the server reports a change there.
export const useDropOffs = () => useQuery({ queryKey: ["outbox", "drop-offs"], queryFn: api.dropOffs });
export const useOutbox = () => useQuery({ queryKey: ["outbox", "parcels"], queryFn: api.outbox });
