<script lang="ts">
  import Room from "../lib/ui/Room.svelte";
</script>

<Room title="Nothing lies here">
  <p>This address leads to no room. Go back to <a href="/">the bench</a>.</p>
</Room>
