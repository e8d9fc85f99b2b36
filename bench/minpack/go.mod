module hammerset/bench/minpack

go 1.26.0

require hammerset v0.0.0

require gonum.org/v1/gonum v0.17.0 // indirect

replace hammerset => ../..
