{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Breathing hold",
  "line": "Stands, and breathes.",
  "tags": [
   "calm",
   "hold"
  ],
  "frames": 192.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 3.0
     }
    ],
    "movers": [
     {
      "type": "oscillator",
      "targets": [
       {
        "channel": "position.z",
        "amount": 0.03
       },
       {
        "channel": "position.y",
        "amount": 0.008
       }
      ],
      "period": 4.0
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
