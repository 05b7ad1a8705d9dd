<script lang="ts" module>
  /** Somebody else changed the same field meanwhile; the card shows how it is now. */
  export interface Clashing {
    sentence: string;
    /** Write what was written here over it. */
    mine: () => void;
    theirs: () => void;
  }
</script>

<script lang="ts">
  const { clash }: { clash: Clashing } = $props();
</script>

<div class="clash" role="alert">
  <p>{clash.sentence} It is shown as it is now.</p>
  <p class="acts">
    <button class="link" type="button" onclick={clash.theirs}>Keep theirs</button>
    <button class="link" type="button" onclick={clash.mine}>Write mine</button>
  </p>
</div>

<style>
  .clash {
    margin: 8px 0;
    padding: 8px 10px;
    border: 1px solid var(--ochre);
    border-radius: 3px;
    background: var(--paper);
  }
  .acts {
    display: flex;
    gap: 14px;
    margin-top: 4px;
  }
</style>
