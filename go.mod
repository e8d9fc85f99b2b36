module hammerset

go 1.26.0

require (
	codeberg.org/go-pdf/fpdf v0.12.0
	golang.org/x/image v0.47.0
	gonum.org/v1/gonum v0.17.0
)

require golang.org/x/text v0.43.0 // indirect
