module hammerset

go 1.26.0

require (
	codeberg.org/go-pdf/fpdf v0.12.0
	github.com/landlock-lsm/go-landlock v0.11.0
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	github.com/spf13/cobra v1.10.2
	golang.org/x/image v0.47.0
	golang.org/x/sys v0.49.0
	golang.org/x/text v0.43.0
	gonum.org/v1/gonum v0.17.0
)

require (
	github.com/inconshreveable/mousetrap v1.1.0 // indirect
	github.com/spf13/pflag v1.0.9 // indirect
	kernel.org/pub/linux/libs/security/libcap/psx v1.2.77 // indirect
)
