<script lang="ts">
  import { counted, formatCount, formatEta } from '#core/text/quantities';
  import { api } from '../common/api';
  import { calmly, hear } from '../common/live';
  import { sayWrong } from '../common/notices.svelte';
  import Sheet from '../common/Sheet.svelte';

  interface Job {
    id: string;
    task: string;
    title: string;
    mine: boolean;
    stoppable: boolean;
    state: 'waiting' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled';
    done: number;
    total: number;
    unit: string;
    reason: string | null;
    startedAt: string | null;
    after: { waiting: number; done: number; failed: number };
    accessionId: string | null;
  }
  /** ms; what ends sooner is not shown. */
  const SHORT_MS = 1500;
  let jobs = $state<Job[]>([]);
  let anchor = $state<HTMLElement>();
  let open = $state(false);

  const isOpen = (job: Job): boolean =>
    ['waiting', 'running', 'paused'].includes(job.state) || job.after.waiting > 0;
  const running = $derived(jobs.filter(isOpen));
  const share = $derived.by(() => {
    const parts = running.map((job) => {
      const after = job.after.waiting + job.after.done;
      const total = (job.total || 1) + after;
      return ((job.state === 'done' ? job.total || 1 : job.done) + job.after.done) / total;
    });
    return parts.length ? parts.reduce((sum, part) => sum + part, 0) / parts.length : 1;
  });
  const AROUND = 2 * Math.PI * 6;

  async function load(): Promise<void> {
    jobs = await api.get('/api/jobs').catch(() => jobs);
  }

  $effect(() => {
    void load();
    const soon = calmly(() => void load(), 500);
    /** Work that began and may be done at once: only what takes a while is shown. */
    let begun: { id: string; timer: ReturnType<typeof setTimeout> }[] = [];
    const stop = hear((message) => {
      if (message.about === 'again') soon();
      else if (message.about === 'items' && running.length > 0) soon();
      if (message.about !== 'job') return;
      const { id, state } = message;
      const isShown = running.some((job) => job.id === id);
      const own = begun.find((one) => one.id === id);
      if (state === 'waiting' || state === 'running') {
        if (isShown) soon();
        else if (!own) begun.push({ id, timer: setTimeout(soon, SHORT_MS) });
        return;
      }
      clearTimeout(own?.timer);
      begun = begun.filter((one) => one !== own);
      if (isShown || state !== 'done') soon();
    });
    return () => {
      stop();
      for (const { timer } of begun) clearTimeout(timer);
    };
  });

  async function wish(job: Job, what: 'run' | 'pause' | 'cancel'): Promise<void> {
    try {
      await api.post(`/api/jobs/${job.id}`, { wish: what });
      await load();
    } catch (error) {
      sayWrong(error);
    }
  }

  const retry = (job: Job) => async (): Promise<void> => {
    try {
      await (job.accessionId && job.state === 'done'
        ? api.post(`/api/intake/accessions/${job.accessionId}`)
        : wish(job, 'run'));
      await load();
    } catch (error) {
      sayWrong(error);
    }
  };

  function words(job: Job): string {
    if (job.state === 'running' && job.total > 0) {
      const seconds = job.startedAt ? (Date.now() - Date.parse(job.startedAt)) / 1000 : 0;
      const left =
        job.done > 0 ? ` · ${formatEta((seconds / job.done) * (job.total - job.done))}` : '';
      return `${formatCount(job.done)} of ${formatCount(job.total)} ${job.unit}${left}`;
    }
    if (job.state === 'paused')
      return `paused at ${formatCount(job.done)} of ${formatCount(job.total)} ${job.unit}`;
    if (job.after.waiting > 0)
      return `${counted(job.after.waiting, 'step')} to follow, ${formatCount(job.after.done)} done`;
    const failed = job.after.failed > 0 ? ` · ${counted(job.after.failed, 'step')} failed` : '';
    return {
      waiting: 'waiting',
      running: 'at work',
      done: `done${failed}`,
      failed: 'failed',
      cancelled: 'cancelled',
    }[job.state];
  }
</script>

<button
  bind:this={anchor}
  class="ring"
  type="button"
  aria-expanded={open}
  onclick={() => (open = !open)}
>
  <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
    <circle cx="8" cy="8" r="6" class="track" />
    {#if running.length}<circle
        cx="8"
        cy="8"
        r="6"
        class="share"
        stroke-dasharray="{Math.max(0.06, share) * AROUND} {AROUND}"
      />{/if}
  </svg>
  {running.length ? `${running.length} underway` : 'Nothing underway'}
</button>

{#if open && anchor}
  <Sheet label="Underway" {anchor} onclose={() => (open = false)}>
    <div class="list">
      <h2>Underway</h2>
      {#each jobs.slice(0, 12) as job (job.id)}
        <section>
          <p>{job.title}</p>
          <p class="pencil" class:wrong={job.state === 'failed'}>{words(job)}</p>
          {#if job.reason}<p class="wrong">{job.reason}</p>{/if}
          {#if job.state === 'running' && job.total > 0}
            <progress max={job.total} value={job.done} aria-label={job.title}></progress>
          {/if}
          {#if job.mine}
            <p class="steer">
              {#if job.stoppable && (job.state === 'running' || job.state === 'waiting')}
                <button class="link" type="button" onclick={() => wish(job, 'pause')}>Pause</button>
              {/if}
              {#if job.state === 'paused'}<button
                  class="link"
                  type="button"
                  onclick={() => wish(job, 'run')}>Go on</button
                >{/if}
              {#if job.stoppable && ['running', 'waiting', 'paused'].includes(job.state)}
                <button class="link" type="button" onclick={() => wish(job, 'cancel')}
                  >Cancel</button
                >
              {/if}
              {#if job.state === 'failed'}<button class="link" type="button" onclick={retry(job)}
                  >Try again</button
                >{/if}
            </p>
          {/if}
        </section>
      {:else}
        <p class="pencil">
          Nothing runs, and nothing ended today. Long work shows here with its progress.
        </p>
      {/each}
    </div>
  </Sheet>
{/if}

<style>
  .ring {
    display: flex;
    gap: 8px;
    align-items: center;
    border: 0;
    background: none;
    color: var(--pencil);
  }
  circle {
    fill: none;
    stroke-width: 3;
  }
  .track {
    stroke: var(--rule);
  }
  .share {
    stroke: var(--verdigris);
    transform: rotate(-90deg);
    transform-origin: 8px 8px;
  }
  .list {
    width: 340px;
    padding: 4px 16px 8px;
  }
  section {
    padding: 8px 0;
    border-top: 1px solid var(--rule);
  }
  h2 {
    padding-bottom: 8px;
  }
  progress {
    width: 100%;
    height: 5px;
    accent-color: var(--verdigris);
  }
  .steer {
    display: flex;
    gap: 12px;
  }
</style>
