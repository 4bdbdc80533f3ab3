<script lang="ts">
	// Chooses a file and hands it over; the same file may be chosen twice.
	import { FileUploaderButton } from 'carbon-components-svelte';
	interface Props {
		label: string;
		/** what a screen reader says, where the label alone says too little */
		says?: string;
		accept: string;
		/** of a form that sends the file itself */
		name?: string;
		onpick?: (file: File) => unknown;
	}
	let { label, says = label, accept, name, onpick }: Props = $props();
	let files = $state<readonly File[]>([]);
	function take(e: CustomEvent<readonly File[]>) {
		const [file] = e.detail;
		if (!file || !onpick) return;
		onpick(file);
		files = [];
	}
</script>

<span class="file">
	<FileUploaderButton
		kind={name ? 'tertiary' : 'ghost'}
		size="small"
		labelText={label}
		disableLabelChanges={!name}
		accept={accept.split(',')}
		{name}
		bind:files
		on:change={take}
		aria-label={says}
	>
		<span slot="labelChildren"
			>{files.length && name ? files[0].name : label}{#if says !== label}<span class="visually-hidden">: {says}</span
				>{/if}</span
		>
	</FileUploaderButton>
</span>
