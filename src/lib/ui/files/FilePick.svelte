<script lang="ts">
	// Looks like a link and chooses a file; the same file may be chosen twice.
	interface Props {
		label: string;
		/** what a screen reader says, where the label alone says too little */
		says?: string;
		accept: string;
		onpick: (file: File) => unknown;
	}
	let { label, says = label, accept, onpick }: Props = $props();
</script>

<label class="file"
	>{label}<input
		type="file"
		{accept}
		aria-label={says}
		onchange={(e) => {
			const [file] = e.currentTarget.files ?? [];
			if (file) onpick(file);
			e.currentTarget.value = '';
		}}
	/></label
>
