{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Hand-held look",
  "line": "As held in the hand by somebody who looks on.",
  "tags": [
   "lively",
   "hand"
  ],
  "frames": 144.0,
  "nodes": [
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "channels": [
     {
      "name": "position.z",
      "value": 3.2,
      "keys": [
       {
        "frame": 0.0,
        "value": 3.2,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       },
       {
        "frame": 144.0,
        "value": 3.05,
        "span": {
         "type": "family",
         "name": "sine",
         "direction": "in-out"
        }
       }
      ]
     }
    ],
    "movers": [
     {
      "type": "shake",
      "targets": [
       {
        "channel": "position.x",
        "amount": 0.03
       },
       {
        "channel": "position.y",
        "amount": 0.02
       },
       {
        "channel": "rotation.x",
        "amount": 0.35
       },
       {
        "channel": "rotation.y",
        "amount": 0.35
       },
       {
        "channel": "rotation.z",
        "amount": 0.4
       }
      ],
      "period": 1.6,
      "octaves": 2
     }
    ]
   }
  ],
  "camera": "camera",
  "focuses": true
 }
}
