<script lang="ts">
  /** A bold part of a sentence that says what is to be done; it opens its choice under the sentence. */
  let {
    open = $bindable(),
    name,
    text,
    label
  }: {
    /** the part whose choice is open; '': none */
    open: string;
    name: string;
    text: string;
    /** what is chosen by it, for those who hear the page */
    label: string;
  } = $props();
</script>

<button
  type="button"
  class="part"
  aria-expanded={open === name}
  aria-label="{text}: {label}"
  onclick={() => (open = open === name ? '' : name)}>{text}</button
>
