# Describes this computer to Tarn. Reads only. Run it by hand or as a startup script:
#   powershell -NoProfile -ExecutionPolicy Bypass -File tarn-reporter.ps1
$Url = '@URL@'
$Token = '@TOKEN@'
@QUESTIONS@
$Kept = Join-Path $env:ProgramData 'tarn-reporter.json'
$Answer = $o | ConvertTo-Json -Depth 4 -Compress
$Report = @{schema='tarn.report/1'; version=1; at=[int][double]::Parse((Get-Date -UFormat %s)); host='';
  outputs=@{windows=@{out=$Answer; err=''; code=0}}; unchanged=@()} | ConvertTo-Json -Depth 6 -Compress
$Body = [Text.Encoding]::UTF8.GetBytes($Report)
$Done = $false
foreach ($Wait in 0, 2, 4) {
  Start-Sleep -Seconds $Wait
  try {
    $Said = Invoke-RestMethod -Method Post -Uri "$Url/api/reports" -Body $Body -ContentType 'application/json' `
      -Headers @{Authorization="Bearer $Token"}
    "reported as $($Said.asset)"
    if (Test-Path $Kept) { Remove-Item $Kept }
    $Done = $true
    break
  } catch { $Failure = $_ }
}
if (-not $Done) {
  [IO.File]::WriteAllBytes($Kept, $Body)
  [Console]::Error.WriteLine("Not reported: $Failure. The report is kept in $Kept.")
  exit 75
}
