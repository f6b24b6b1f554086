<script lang="ts">
  import { QueryClient, QueryClientProvider } from "@tanstack/svelte-query";
  import Shell from "./Shell.svelte";

  const queries = new QueryClient({
    defaultOptions: { queries: { staleTime: 1000, refetchOnWindowFocus: true, retry: 1 } },
  });
</script>

<QueryClientProvider client={queries}>
  <Shell />
</QueryClientProvider>
