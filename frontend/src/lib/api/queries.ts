import { createQuery } from "@tanstack/svelte-query";
import { client, unwrap, type Capture } from "./client";

/** Captures that are under way are asked after each second. */
export function pace(captures: Capture[]): number | false {
  return captures.some((c) => c.state === "queued" || c.state === "running") ? 1000 : false;
}

export const overviewQuery = () =>
  createQuery(() => ({
    queryKey: ["overview"],
    queryFn: () => unwrap(client.GET("/api/overview")),
    refetchInterval: (query) =>
      pace(query.state.data?.sessions.flatMap((s) => s.cards.flatMap((c) => c.captures)) ?? []),
  }));

export const libraryQuery = () =>
  createQuery(() => ({ queryKey: ["library"], queryFn: () => unwrap(client.GET("/api/library")) }));

export const sessionQuery = (id: () => number) =>
  createQuery(() => ({
    queryKey: ["session", id()],
    enabled: id() > 0,
    queryFn: () => unwrap(client.GET("/api/sessions/{session_id}", { params: { path: { session_id: id() } } })),
  }));

export const cardQuery = (id: () => string) =>
  createQuery(() => ({
    queryKey: ["card", id()],
    queryFn: () => unwrap(client.GET("/api/cards/{card_id}", { params: { path: { card_id: id() } } })),
    refetchInterval: (query) => pace(query.state.data?.captures ?? []),
  }));

export const measurementQuery = (id: () => number) =>
  createQuery(() => ({
    queryKey: ["measurement", id()],
    queryFn: () =>
      unwrap(client.GET("/api/captures/{capture_id}/measurement", { params: { path: { capture_id: id() } } })),
    retry: false,
  }));

export const profileQuery = (id: () => number) =>
  createQuery(() => ({
    queryKey: ["profile", id()],
    queryFn: () => unwrap(client.GET("/api/paints/{paint_id}/profile", { params: { path: { paint_id: id() } } })),
    retry: false,
  }));

export const comparisonQuery = (paints: () => string) =>
  createQuery(() => ({
    queryKey: ["compare", paints()],
    queryFn: () => unwrap(client.GET("/api/compare", { params: { query: { paints: paints() } } })),
    retry: false,
  }));
