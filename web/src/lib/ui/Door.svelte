<script lang="ts">
  /** The plain page before one is signed in. */
  let { title, children }: { title: string; children: import('svelte').Snippet } = $props();
</script>

<svelte:head><title>{title} · Skeno</title></svelte:head>
<main>
  <div class="brand"><img src="/favicon.svg" alt="" width="34" height="34" /><span>Skeno</span></div>
  <p class="soft">from raw pictures to a training dataset</p>
  <section class="card">
    <h1>{title}</h1>
    {@render children()}
  </section>
</main>

<style>
  main {
    max-width: 400px;
    margin: 9vh auto 40px;
    padding: 0 16px;
  }
  .brand {
    display: flex;
    gap: 10px;
    align-items: center;
    font-size: 26px;
    font-weight: 700;
  }
  h1 {
    margin-bottom: 14px;
  }
  section {
    margin-top: 18px;
    padding: 20px;
  }
</style>
