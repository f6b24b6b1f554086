import { createQuery, keepPreviousData } from "@tanstack/svelte-query";
import { client, unwrap, type Capture, type Plan } from "./client";

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
  createQuery(() => ({
    queryKey: ["library"],
    queryFn: () => unwrap(client.GET("/api/library")),
    // Each change here makes it anew; only another window's changes wait this long.
    staleTime: 30_000,
  }));

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

export const previewQuery = (plan: () => Plan) =>
  createQuery(() => ({
    queryKey: ["preview", plan()],
    queryFn: () => unwrap(client.POST("/api/plans/preview", { body: plan() })),
    placeholderData: keepPreviousData,
    retry: false,
  }));

export const answerQuery = (id: () => number) =>
  createQuery(() => ({
    queryKey: ["answer", id()],
    queryFn: () => unwrap(client.GET("/api/sessions/{session_id}/answer", { params: { path: { session_id: id() } } })),
    retry: false,
  }));

export const benchQuery = (card: () => string) =>
  createQuery(() => ({
    queryKey: ["bench", card()],
    queryFn: () => unwrap(client.GET("/api/cards/{card_id}/bench", { params: { path: { card_id: card() } } })),
    retry: false,
  }));

/** Asked again and again: a timer may have been started on another screen. */
export const timersQuery = (on: () => boolean) =>
  createQuery(() => ({
    queryKey: ["timers"],
    queryFn: () => unwrap(client.GET("/api/timers")),
    enabled: on(),
    refetchInterval: 5000,
  }));

export const inboxQuery = () =>
  createQuery(() => ({
    queryKey: ["inbox"],
    queryFn: () => unwrap(client.GET("/api/inbox")),
    refetchInterval: (query) => pace(query.state.data?.waiting.flatMap((w) => (w.capture ? [w.capture] : [])) ?? []),
  }));

export const calendarQuery = () =>
  createQuery(() => ({ queryKey: ["calendar"], queryFn: () => unwrap(client.GET("/api/calendar")) }));

export const binQuery = () => createQuery(() => ({ queryKey: ["bin"], queryFn: () => unwrap(client.GET("/api/bin")) }));

export const meQuery = () =>
  createQuery(() => ({ queryKey: ["me"], queryFn: () => unwrap(client.GET("/api/me")), staleTime: 60_000 }));

export const peopleQuery = () =>
  createQuery(() => ({ queryKey: ["people"], queryFn: () => unwrap(client.GET("/api/people")), retry: false }));

export const searchQuery = (words: () => string) =>
  createQuery(() => ({
    queryKey: ["search", words()],
    enabled: words().trim().length > 0,
    queryFn: () => unwrap(client.GET("/api/search", { params: { query: { words: words() } } })),
    placeholderData: keepPreviousData,
  }));

export const historyQuery = (of: () => { session?: number; paint?: number }) =>
  createQuery(() => ({
    queryKey: ["history", of()],
    queryFn: () => {
      const { session, paint } = of();
      return session === undefined
        ? unwrap(client.GET("/api/paints/{paint_id}/history", { params: { path: { paint_id: paint ?? 0 } } }))
        : unwrap(client.GET("/api/sessions/{session_id}/history", { params: { path: { session_id: session } } }));
    },
  }));

export const targetHistoryQuery = (id: () => number) =>
  createQuery(() => ({
    queryKey: ["target", id()],
    queryFn: () => unwrap(client.GET("/api/targets/{target_id}/history", { params: { path: { target_id: id() } } })),
  }));
